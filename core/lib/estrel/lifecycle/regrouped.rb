# frozen_string_literal: true

module Estrel
  class Lifecycle
    # The development of groups that people go from one to the other of: at a date everybody counts in the group she was
    # in then, and over a period in the one she was in when it began, or, in none yet, when it ended. All dates are one
    # pass. Who was reactivated is not told.
    class Regrouped
      WIDTH = STATES.size
      NEVER = STATES.index("never_active")
      private_constant :WIDTH, :NEVER

      # @param part [Audience::Evaluator]
      # @param steps [Steps]
      # @param size [Integer] how many groups there are
      # @param groups [Polars::Series] the number of everybody's group or null, date after date
      # @return [Array<Development>] one for each group
      def self.of(part, steps, size, groups) = new(part, steps, size, groups).developments

      def initialize(part, steps, size, groups)
        @part = part
        @steps = steps
        @size = size
        @groups = groups
      end

      # @return [Array<Development>]
      def developments
        counted.zip(moved).map { |series, movements| Development.counted(@steps, series, movements) }
      end

      private

      def people = @part.ledger.profiles

      # One row per date and person, in this order: `at`, the number of the date, `group` and `state`, null for whom
      # nothing was known of, and the `next_group` and `next_state` of the next date.
      def rows
        @rows ||= begin
          days = @steps.dates.map { |date| Calendar.number(date) }
          dates = Polars::DataFrame.new({ "at" => (0...days.size).to_a, "day" => days })
          all = dates.join(people.select(["first_seen_day"]), how: "cross")
          known = Polars.col("first_seen_day") <= Polars.col("day")
          own = %w[group state].map { |name| Polars.when(known).then(Polars.col(name)).otherwise(nil).alias(name) }
          told = all.hstack([@groups.alias("group"), states]).select([Polars.col("at"), *own])
          later = %w[group state].map { |name| Polars.col(name).shift(-people.height).alias("next_#{name}") }
          told.with_columns(later)
        end
      end

      # @return [Polars::Series] everybody's state at every date, numbered as {STATES}, date after date
      def states
        length = Polars.col("to") - Polars.col("from")
        runs = Polars.concat([never_active, active]).filter(length.gt(0)).sort(%w[profile_id from])
                     .select([Polars.col("state").repeat_by(length)]).explode("state")
        dates = Array.new(@steps.size) { |at| Polars.col("state").gather_every(@steps.size, at) }
        Polars.concat(dates.map { |date| runs.select([date])["state"] })
      end

      # The states of a person, each with the dates it lasts, follow each other without a gap, after those before her
      # first activity.
      def active
        @active ||= spans(@part.lifecycle.edges(@steps, Grouping.everybody(@part.ledger)).stretches,
                          Polars.col("state") + 1, Polars.col("from"), Polars.col("to"))
      end

      def never_active
        firsts = active.group_by("profile_id").agg([Polars.col("from").min.alias("first")])
        spans(people.select(["profile_id"]).join(firsts, on: "profile_id", how: "left"), Polars.lit(NEVER),
              Polars.lit(0), Polars.col("first").fill_null(@steps.size))
      end

      def spans(frame, state, from, to)
        numbers = { "state" => state, "from" => from, "to" => to }
        frame.select([Polars.col("profile_id").cast(Polars::Int64),
                      *numbers.map { |name, column| column.cast(Polars::Int32).alias(name) }])
      end

      # @return [Array<Hash{String => Array<Integer>}>] per group, see {Development#series}
      def counted
        found = Array.new(@size) { [*STATES, "reactivated"].to_h { |name| [name, Array.new(@steps.size, 0)] } }
        tally([:at, @steps.size], [:group, @size], [:state, WIDTH]) do |(at, group, state), count|
          found[group][STATES[state]][at] += count
        end
        found
      end

      # @return [Array<Array<Movement>>] per group and period
      def moved
        found = Array.new(@size) { Array.new(@steps.size - 1) { Movement.nobody } }
        group = Polars.coalesce([Polars.col("group"), Polars.col("next_group")])
        before = Polars.col("state").fill_null(NEVER)
        tally([:at, @steps.size], [group, @size], [before, WIDTH], [:next_state, WIDTH]) do |(at, own, from, to), count|
          found[own][at][Movement.place(from, to)] += count
        end
        found.map { |periods| periods.map { |counts| Movement.new(counts) } }
      end

      # Counts the rows in which all of some numbers are known.
      #
      # @param numbers [Array<Array(Symbol or Polars::Expr, Integer)>] with how many there are of each
      def tally(*numbers)
        code = numbers.reduce(Polars.lit(0).cast(Polars::Int64)) do |sum, (number, width)|
          (sum * width) + (number.is_a?(Symbol) ? Polars.col(number.to_s) : number)
        end
        told = rows.select([code.alias("code")]).filter(Polars.col("code").is_not_null)
        Tally.of(told, Polars.col("code")).each do |sum, count|
          yield places(sum, numbers.map(&:last)), count
        end
      end

      # The numbers that one was put together from.
      def places(sum, widths)
        widths.reverse.reduce([]) do |found, width|
          sum, place = sum.divmod(width)
          [place, *found]
        end
      end
    end
  end
end
