# frozen_string_literal: true

module Estrel
  class Ledger
    # What has added up along a person's events by each of them: visits, time spent in them, or the highest value of a
    # number. What else happened at the same instant has happened by then too, so no order among ties matters.
    module SoFar
      # Column of the whole minutes spent in visits by an event, from the first to the last event of each.
      MINUTES = "so_far:minutes"
      MINUTE = 60 * Calendar::MICROS
      HIGHEST = "so_far:highest:"
      private_constant :MINUTE, :HIGHEST

      module_function

      # @param event [String] name of an event type in the catalogue
      # @param property [String] a number of it
      # @return [String] column of the highest value by an event
      def highest(event, property) = "#{HIGHEST}#{JSON.generate([event, property])}"

      # @param column [String]
      # @return [Boolean] whether {.of} tells it
      def column?(column) = column == MINUTES || column.start_with?(HIGHEST)

      # @param ledger [Readable]
      # @param column [String] {MINUTES} or one of {.highest}
      # @return [Polars::Series] by the rows of the spine; null before the first value
      def of(ledger, column)
        column == MINUTES ? minutes(ledger) : levels(ledger, *JSON.parse(column.delete_prefix(HIGHEST)))
      end

      # System messages belong to no visit; by one of them as much time has been spent as by the event before it.
      def minutes(ledger)
        spent = in_visits(ledger, MINUTE) { |begins, wait| Polars.when(begins).then(0).otherwise(wait) }
        return spent if spent.null_count.zero?

        so_far = Polars.col("so_far").forward_fill.over("profile_id").fill_null(0)
        rows = ledger.spine.select(%w[profile_id occurred_at]).with_columns([spent.alias("so_far")])
        with_ties(rows.with_columns([so_far.alias("so_far")]))
      end

      # @param ledger [Readable]
      # @return [Polars::Series] by the rows of the spine, the number of the visit in the person's life, from 1; null
      #   for system messages, which belong to none
      def visits(ledger) = in_visits(ledger) { |begins, _| begins.cast(Polars::Int64) }

      # @param unit [Integer] what sums are told in, rounded down
      # @yield [begins, wait] whether a visit begins with an event, and the microseconds since the one before
      # @yieldreturn [Polars::Expr] what each event adds
      def in_visits(ledger, unit = 1, &)
        rows = ledger.spine.select(%w[profile_id occurred_at visit_start])
        return added_up(rows, unit, &) if rows["visit_start"].null_count.zero?

        rows = rows.with_row_index(name: "row")
        inside = rows.filter(Polars.col("visit_start").is_not_null)
        placed(rows.height, inside["row"], added_up(inside, unit, &))
      end

      # Sums up to each row that begin anew with each person.
      def added_up(rows, unit)
        profile, start, at = %w[profile_id visit_start occurred_at].map { |name| Polars.col(name) }
        other = profile.ne_missing(profile.shift(1))
        adds = yield(other | start.ne_missing(start.shift(1)), at - at.shift(1))
        sums = rows.select([adds.alias("added"), adds.cum_sum.alias("sum"), other.alias("other")])
        sum, added = %w[sum added].map { |name| Polars.col(name) }
        before = Polars.when(Polars.col("other")).then(sum - added).otherwise(nil).forward_fill
        sums.select([(sum - before).floordiv(unit).cast(Polars::Int64).alias("so_far")])["so_far"]
      end

      def levels(ledger, event, property)
        type = ledger.catalogue.event_types.fetch(event)
        spine = ledger.spine
        places = spine.select([Polars.arg_where(Polars.col("type") == type.id).alias("row")])["row"]
        values = placed(spine.height, places, ledger.events(event)[Layout.property(property)].cast(Polars::Float64))
        highest = Polars.col("so_far").cum_max.forward_fill.over("profile_id")
        rows = spine.select(%w[profile_id occurred_at]).with_columns([values.alias("so_far")])
        with_ties(rows.with_columns([highest.alias("so_far")]))
      end

      # Where several rows of a person stand at one instant, what the last of them says holds for all.
      def with_ties(rows)
        profile, at, highest = %w[profile_id occurred_at so_far].map { |name| Polars.col(name) }
        tied = ((profile == profile.shift(-1)) & (at == at.shift(-1))).fill_null(false)
        # So that nothing comes from later instants.
        never = rows["so_far"].dtype == Polars::Int64 ? -1 : -Float::INFINITY
        last = Polars.when(tied).then(nil).otherwise(highest.fill_null(never)).backward_fill
        rows.select([Polars.when(last == never).then(nil).otherwise(last).alias("so_far")])["so_far"]
      end

      # A column that has some values in some rows, and nothing in the others.
      def placed(height, places, values)
        nothing = Polars.lit(nil).cast(values.dtype)
        Polars::DataFrame.new.select([Polars.repeat(nothing, height).alias("so_far")])["so_far"].scatter(places, values)
      end
      private_class_method :minutes, :in_visits, :added_up, :levels, :with_ties, :placed
    end
  end
end
