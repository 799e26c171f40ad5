# frozen_string_literal: true

module Estrel
  module Analyses
    class Experience
      # Counts what the people of a part of the ledger did at each place. Along all their events the place of a person
      # never falls, so nothing has to be sorted.
      class Counting
        # In how many blocks people are told of, so that it can be told how much figures depend on whom there is.
        BLOCKS = 20
        COLUMNS = %w[profile_id day type].freeze
        private_constant :COLUMNS

        # @param analysis [Experience]
        # @param part [Audience::Evaluator]
        def initialize(analysis, part)
          @analysis = analysis
          @part = part
          @edges = analysis.edges
        end

        # @return [Hash{Symbol => Object}] for {Sum}: of each series `times` and `people` by group, block and place;
        #   `reached`, how many people of these got to each place and no further; `spent`, how many visits they paid
        #   there, or how many days or weeks they had there
        def to_h(labels)
          { series: @analysis.selections.map do |selection|
            of_groups(placed(selection), labels) do |told|
              counted(told)
            end
          end,
            reached: of_groups(farthest, labels) { |told| tally(told) },
            spent: (of_groups(spent, labels) { |told| tally(told, weight: "n") } if @analysis.rated?) }
        end

        # @param selection [Audience::Selection]
        # @return [Polars::DataFrame] its events that have a place, by `profile_id` and `at`, the number of the place
        def placed(selection)
          frames = selection.types(@part.catalogue).map { |type| of_type(type, selection.where) }
          frames.one? ? frames.first : Polars.concat(frames).sort(%w[profile_id at])
        end

        private

        def of_groups(rows, labels, &)
          @analysis.groups.of(rows, @part, labels).map(&).reduce { |one, other| Sum.of(one, other) }
        end

        def counted(told)
          profile, at = %w[profile_id at].map { |name| Polars.col(name) }
          fresh = ((profile != profile.shift(1)) | (at != at.shift(1))).fill_null(true)
          { times: tally(told), people: tally(told.filter(fresh)) }
        end

        def tally(told, **how)
          block = Polars.col("profile_id") % BLOCKS
          place = (((Polars.col("group").cast(Polars::Int64) * BLOCKS) + block) * @edges.size) + Polars.col("at")
          Lifecycle::Tally.of(told, place, **how)
        end

        # Of the events that are meant: a type's rows stand in the spine in the order of its file.
        def of_type(type, where)
          theirs = rows.filter(Polars.col("type") == type.id)
          unless where.empty?
            events = @part.events_beside(type.name, where.beside).lazy.filter(Polars.col("day") <= last_day)
            fits = events.select([where.expression(type, @part.calendar).alias("fits")]).collect
            theirs = theirs.hstack(fits).filter(Polars.col("fits"))
          end
          theirs.filter(Polars.col("at").is_not_null).select([profile, Polars.col("at")])
        end

        def last_day = Calendar.number(@part.as_of)

        # Profiles are narrower in the spine than anywhere else.
        def profile = Polars.col("profile_id").cast(Polars::Int64)

        # All events up to the as-of date, each `at` its place; null where it has none.
        def rows
          @rows ||= begin
            all = @part.ledger.spine.select(COLUMNS)
            all = all.with_columns([so_far(all).alias("so_far")])
            all = all.filter(Polars.col("day") <= last_day) if (all["day"].max || 0) > last_day
            looked_at(all).select(%w[profile_id type at so_far])
          end
        end

        # Those that have a place.
        def placed_rows
          @placed_rows ||= rows["at"].null_count.zero? ? rows : rows.filter(Polars.col("at").is_not_null)
        end

        # Whoever was first seen too early has no place, and of days and weeks none that has not passed.
        def looked_at(rows)
          at = place(Polars.col("so_far"))
          return rows.with_columns([at.alias("at")]) unless @analysis.timed? || @analysis.from

          people = first_seen.select([Polars.col("profile_id"), place_reached.alias("last")])
          place = Polars.col("place")
          kept = Polars.when(place <= Polars.col("last")).then(place).otherwise(nil)
          rows.with_columns([at.alias("place"), profile]).join(people, on: "profile_id", how: "left")
              .with_columns([kept.alias("at")])
        end

        # The number of the place that a number lies in; null before the first.
        def place(number)
          whole = number.floor.clip(-1, @edges.last) + 1
          Polars.lit(place_of_each).gather(whole.cast(Polars::UInt32))
        end

        # For every whole number from -1 to that at which the last place begins.
        def place_of_each
          @place_of_each ||= begin
            places = (-1..@edges.last).map { |number| @edges.rindex { |edge| number >= edge } }
            Polars::Series.new("place", places, dtype: Polars::Int16)
          end
        end

        # With `first_seen_day`, of those who are looked at.
        def first_seen
          found = @part.first_seen.filter(@part.seen(@part.as_of))
          @analysis.from ? found.filter(Polars.col("first_seen_day") >= Calendar.number(@analysis.from)) : found
        end

        # The last place that has passed for a person of {#first_seen}; all of them where places are not of time.
        def place_reached
          return Polars.lit(@edges.size) unless @analysis.timed?

          passed = @edges.drop(1).sum(Polars.lit(0)) { |edge| (age >= edge - 1).cast(Polars::Int64) }
          # The last one has no end: it counts for whoever has come to it.
          passed = passed - 1 + (age >= @edges.last).cast(Polars::Int64)
          Polars.when(age >= @edges.first).then(passed).otherwise(-1)
        end

        # How many whole days or weeks have passed for a person of {#first_seen}, the first being 0.
        def age
          days = (Polars.lit(last_day) - Polars.col("first_seen_day")).cast(Polars::Int64)
          @analysis.along == "week" ? (days + 1).floordiv(7) - 1 : days
        end

        # What rates are of: `profile_id`, `at`, and `n` visits paid there, or days or weeks had there.
        def spent
          return time_had unless @analysis.along == "visit"

          begins = %w[profile_id so_far].map { |name| Polars.col(name) != Polars.col(name).shift(1) }.reduce(:|)
          placed_rows.filter(begins.fill_null(true))
                     .select([profile, Polars.col("at"), Polars.lit(1).cast(Polars::Int64).alias("n")])
        end

        def time_had
          people = first_seen.select([Polars.col("profile_id"), place_reached.alias("last"), age.alias("age")])
          frames = @analysis.places.each_with_index.map do |range, at|
            had = range.end ? Polars.lit(range.size) : Polars.col("age") - range.begin + 1
            people.filter(Polars.col("last") >= at)
                  .select([Polars.col("profile_id"), Polars.lit(at).cast(Polars::Int64).alias("at"),
                           had.cast(Polars::Int64).alias("n")])
          end
          Polars.concat(frames)
        end

        # What is counted up along the events of a person: visits, days, weeks, minutes spent or the highest level.
        def so_far(rows)
          ledger = @part.ledger
          case @analysis.along
          when "visit" then Ledger::SoFar.visits(ledger)
          when "time" then Ledger::SoFar.of(ledger, Ledger::SoFar::MINUTES)
          when "level"
            Ledger::SoFar.of(ledger, Ledger::SoFar.highest(*@analysis.level.values_at("event", "property")))
          else days(rows)
          end
        end

        def days(rows)
          since = rows.select([profile]).join(@part.first_seen, on: "profile_id", how: "left")["first_seen_day"]
          age = (Polars.col("day").cast(Polars::Int64) - Polars.col("first_seen_day")).alias("so_far")
          age = age.floordiv(7) if @analysis.along == "week"
          rows.select(["day"]).with_columns([since]).select([age])["so_far"]
        end

        # How far everybody has got: `profile_id` and `at`.
        def farthest
          if @analysis.timed?
            reached = first_seen.select([Polars.col("profile_id"), place_reached.alias("at")])
            return reached.filter(Polars.col("at") >= 0)
          end

          # The place of a person never falls, so it is the one of the last row.
          other = Polars.col("profile_id") != Polars.col("profile_id").shift(-1)
          placed_rows.filter(other.fill_null(true)).select([profile, Polars.col("at")])
        end
      end
    end
  end
end
