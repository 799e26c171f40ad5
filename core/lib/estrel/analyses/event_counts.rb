# frozen_string_literal: true

module Estrel
  module Analyses
    # What was counted of events, told apart by group and period: everything an {EventMeasure} is computed from. What of
    # it parts of a ledger have found is plain data that adds up, so {.of} gives that, and this reads it.
    #
    # A *code* is the number of the group times one more than the number of periods, plus that of the period; the last
    # stands for the whole range, over which people are counted once.
    class EventCounts
      # Above every code: a power of two.
      CODES = 1 << 32
      private_constant :CODES

      # @param steps [Lifecycle::Steps]
      # @return [Integer] codes of a group
      def self.width(steps) = steps.size

      # @param steps [Lifecycle::Steps]
      # @return [Audience::Window] the days of all periods
      def self.window(steps) = Audience::Window.new(from: steps.dates.first + 1, to: steps.dates.last)

      # @param part [Audience::Evaluator]
      # @param steps [Lifecycle::Steps]
      # @return [Polars::DataFrame] `profile_id`, `occurred_at` and `day` of activity under the lifecycle rules, in
      #   order, for {.of}; a day may stand repeatedly
      def self.active_days(part, steps)
        inside = Polars.col("day").is_between(steps.days.first + 1, steps.days.last)
        names = %w[profile_id occurred_at day]
        columns = names.map { |name| Polars.col(name).cast(Polars::Int64) }
        frames = part.lifecycle.activity_rows(names).map { |rows| rows.filter(inside).select(columns) }
        frames.one? ? frames.first : Polars.concat(frames).sort(%w[profile_id occurred_at])
      end

      # @param rows [Polars::DataFrame] `profile_id`, `day` and `group` (number), sorted by profile and time; `value`
      #   where a property is measured
      # @param steps [Lifecycle::Steps] in whose periods all of them lie
      # @param needs [Array<Symbol>] see {EventMeasure::NEEDS}
      # @param personal [Boolean] whether all events of a person are in one group
      # @return [Hash{Symbol => Object}] for {Sum}: by code, `people`, `times`, `sums`, how many are `given` and their
      #   `spans`; the different `values`, each with how often it occurs
      def self.of(rows, steps, needs, personal:)
        kept = %w[profile_id group value].intersection(rows.columns).map { |name| Polars.col(name) }
        code = (Polars.col("group") * width(steps)) + (steps.index(Polars.col("day")) - 1)
        coded = rows.lazy.select([*kept, code.alias("code")]).collect
        needs.to_h { |need| [need, counted(need, coded, steps, personal)] }
      end

      # @param found [Hash] of {.of}
      # @param steps [Lifecycle::Steps]
      # @param grouped [Boolean] whether `active` people are told apart; all groups have the same where they are not
      def initialize(found, steps, grouped: true)
        @found = found
        @width = self.class.width(steps)
        @grouped = grouped
      end

      # @param group [Integer]
      # @return [Integer] the code of the whole range
      def whole(group = 0) = ((group + 1) * @width) - 1

      # @param code [Integer]
      # @return [Integer]
      def people(code) = @found[:people].fetch(code, 0)

      # @return [Integer]
      def active(code) = @found[:active].fetch(@grouped ? code : code % @width, 0)

      # @return [Integer]
      def times(code) = over_range(:times, code) || 0

      # @return [Float]
      def sum(code) = over_range(:sums, code).to_f

      # @return [Integer] how many events have the property
      def given(code) = over_range(:given, code) || 0

      # @return [Span, nil] from the least value to the greatest
      def span(code) = over_range(:spans, code)

      # @return [Array<Array(Object, Integer)>] the different values, in order, with how often each occurs
      def values(code)
        @values ||= @found[:values].frame.select(%w[code value n]).sort("value").rows
                                   .group_by(&:first).transform_values { |rows| rows.map { |_, value, n| [value, n] } }
        @values.fetch(code, [])
      end

      class << self
        private

        def counted(need, coded, steps, personal)
          whole = (Polars.col("group") * width(steps)) + (width(steps) - 1)
          case need
          when :people, :active
            people(coded, Polars.col("code"), personal).merge(people(coded, whole, personal))
          when :times then Lifecycle::Tally.of(coded, Polars.col("code"))
          when :values then values(coded, whole)
          else of_values(need, coded.filter(Polars.col("value").is_not_null))
          end
        end

        # Whose events are in one group each has them in the order of the codes.
        def people(coded, code, personal)
          profile = Polars.col("profile_id")
          unless personal
            own = profile.cast(Polars::Int64) - (coded["profile_id"].min || 0)
            once = Lifecycle::Tally.different(coded, (own * CODES) + code)
            return Lifecycle::Tally.of(once, Polars.col("number") & (CODES - 1))
          end

          fresh = ((profile != profile.shift(1)) | (code != code.shift(1))).fill_null(true)
          Lifecycle::Tally.of(coded.filter(fresh), code)
        end

        def values(coded, whole)
          given = coded.filter(Polars.col("value").is_not_null)
          Sum::Rows.new(Polars.concat([Polars.col("code"), whole].map do |code|
            given.lazy.select([code.alias("code"), Polars.col("value")])
                 .group_by(%w[code value]).agg([Polars.len.cast(Polars::Int64).alias("n")])
          end).collect)
        end

        def of_values(need, given)
          return Sum::Decimals.of(given, "code") if need == :sums
          return Lifecycle::Tally.of(given, Polars.col("code")) if need == :given

          value = Polars.col("value")
          spans = given.group_by("code").agg([value.min.alias("least"), value.max.alias("most")]).rows
          spans.to_h { |code, *ends| [code, Span.new(*ends)] }
        end
      end

      private

      # Of the whole range, what its periods have together.
      def over_range(name, code)
        counts = @found[name]
        return counts[code] unless ((code + 1) % @width).zero?

        ((code - @width + 1)...code).filter_map { |one| counts[one] }.reduce { |one, other| Sum.of(one, other) }
      end
    end
  end
end
