# frozen_string_literal: true

module Estrel
  class Ledger
    # All events of all types in one narrow frame, by profile and time: activity days, visits, and what came right
    # before need no sorting when somebody asks. A type's rows stand here in the order of its own file, so a column
    # computed here lines up with the type's events.
    #
    # System messages, which are no sign of life, belong to no visit and start none.
    module Spine
      # Narrow numbers, since reading them is what questions spend their time on. `received_day` tells what was known by
      # a date; `type` is the number of the event type in the catalogue; `visit_start` the instant of the first event
      # of the visit, null for system messages. Days of the years 1880 to 2059 fit.
      COLUMNS = { "profile_id" => Polars::UInt32, "day" => Polars::Int16, "type" => Polars::UInt16,
                  "occurred_at" => Polars::Int64, "received_day" => Polars::Int16,
                  "visit_start" => Polars::Int64 }.freeze
      # Before every instant: in the place of an earlier one where there is none.
      NEVER = -(2**62)
      # Rows that are put in order at once.
      ROWS = 2_500_000
      ORDER = %w[profile_id occurred_at type event_id].freeze
      private_constant :ROWS, :ORDER

      module_function

      # @param events [Hash{Catalogue::EventType => Polars::DataFrame}] in {Layout::EVENT_ORDER}, with `day`
      # @param calendar [Calendar]
      # @param gap [Integer] the longest gap inside a visit, microseconds
      # @return [Polars::DataFrame] as {COLUMNS}
      def of(events, calendar, gap)
        system = system_types(events.keys)
        parts = in_stretches(events).map { |part| visited(sorted(part, calendar), system, gap) }
        Polars.concat([none, *parts])
      end

      # The same after something has changed for a few profiles, without putting the others in order anew.
      #
      # @param spine [Polars::DataFrame] the one before
      # @param events [Hash{Catalogue::EventType => Polars::DataFrame}] as they are now
      # @param touched [Array<Integer>] ids of the profiles whose events have changed, gone ones among them
      # @param calendar [Calendar]
      # @param gap [Integer] microseconds
      # @return [Polars::DataFrame] as {COLUMNS}
      def renewed(spine, events, touched, calendar, gap)
        return spine if touched.empty?
        return of(events, calendar, gap) unless Splice.worth?(spine, touched.size)

        ids = Polars::Series.new("profile_id", touched.sort.uniq, dtype: Polars::Int64)
        theirs = of(events.transform_values { |frame| Rows.of(frame, ids) }, calendar, gap)
        Splice.replace(spine, theirs, ids)
      end

      # @param rows [Polars::DataFrame] as {COLUMNS}; `visit_start` is made anew, as after rows have been left out
      # @param system [Array<Integer>] numbers of the types that are system messages
      # @param gap [Integer] microseconds
      # @return [Polars::DataFrame]
      def visited(rows, system, gap)
        at = Polars.col("occurred_at")
        profile = Polars.col("profile_id")
        counts = system.map { |id| Polars.col("type") != id }.reduce(:&)
        own = ->(expr) { counts ? Polars.when(counts).then(expr).otherwise(nil) : expr }
        last_at, last_profile = [at, profile].map { |expr| (counts ? own.call(expr).forward_fill : expr).shift(1) }
        begins = ((profile != last_profile) | ((at - last_at) > gap)).fill_null(true)
        start = Polars.when(counts ? begins & counts : begins).then(at).otherwise(nil).forward_fill
        rows.with_columns([own.call(start).alias("visit_start")]).select(COLUMNS.keys)
      end

      # @param rows [Polars::DataFrame] as {COLUMNS}
      # @return [Polars::Series] the latest earlier instant of the same profile, {NEVER} where there is none
      def previous(rows)
        at, profile, tie, found = %w[occurred_at profile_id tie previous_at].map { |name| Polars.col(name) }
        own = (profile == profile.shift(1)).fill_null(false)
        marked = rows.select([Polars.when(own).then(at.shift(1)).otherwise(NEVER).alias("previous_at"),
                              (own & (at == at.shift(1))).alias("tie")])
        return marked["previous_at"] unless marked["tie"].any

        # What happened at the same instant as the row before has the same before it; such rows are few.
        rows = marked.select([Polars.arg_where(tie | tie.shift(-1)).alias("row")])["row"]
        theirs = marked.select([Polars.all.gather(Polars.lit(rows))])
                       .select([Polars.when(tie).then(nil).otherwise(found).forward_fill.alias("previous_at")])
        marked["previous_at"].scatter(rows, theirs["previous_at"])
      end

      # @param types [Array<Catalogue::EventType>]
      # @return [Array<Integer>] numbers of those that are system messages
      def system_types(types) = types.select(&:not_activity).map(&:id).sort

      # The events in stretches of so many rows that putting one in order takes little memory, by profile.
      def in_stretches(events)
        largest = events.values.max_by(&:height)
        return [] if largest.nil? || largest.height.zero?

        count = (events.values.sum(&:height) / ROWS) + 1
        cuts = (1...count).map { |part| largest["profile_id"][(largest.height * part) / count] }.uniq
        [0, *cuts].zip([*cuts, Layout::AFTER_ALL]).map do |first, after|
          events.transform_values { |frame| Rows.between(frame, first..(after - 1)) }
        end
      end
      private_class_method :in_stretches

      def sorted(events, calendar)
        received = calendar.counted_days(Polars.col("received_at"))
        rows = events.map do |type, frame|
          narrow = { "profile_id" => Polars.col("profile_id"), "day" => Polars.col("day"),
                     "type" => Polars.lit(type.id), "received_day" => received }
                   .map { |name, expr| expr.cast(COLUMNS.fetch(name)).alias(name) }
          frame.lazy.select([*narrow, Polars.col("occurred_at"), Polars.col("event_id")])
        end
        Polars.concat(rows).collect.sort(ORDER)
      end
      private_class_method :sorted

      # @return [Polars::DataFrame] without a row
      def none = Ledger::Layout.empty(COLUMNS)
    end
  end
end
