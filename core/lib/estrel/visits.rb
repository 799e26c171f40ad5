# frozen_string_literal: true

module Estrel
  # Visits: runs of events of one profile with no gap longer than the workspace's visit gap. Always computed,
  # never trusted from the sender.
  module Visits
    # One visit: instants of its first and last event, how many events it has, and their positions in what was given.
    Visit = Struct.new(:first, :last, :count, :positions) do
      # @return [Integer] microseconds from the first event to the last
      def duration = last - first
    end

    # What a visit and the event it began with have in common, and what names the event it ended with in {.listed}.
    KEY = %w[profile_id occurred_at type].freeze
    LAST_KEY = %w[profile_id last_at last_type].freeze

    module_function

    # Whether a row, sorted by them, has the same values as one of the rows before.
    #
    # @param names [Array<String>] of columns
    # @param rows [Integer] how many rows before
    # @return [Polars::Expr]
    def same(names, rows)
      names.map { |name| Polars.col(name) }.map { |column| column.eq_missing(column.shift(rows)) }.reduce(:&)
    end

    # Events of a type that are the first, or the last, of that type at their instant: those at which a visit began, or
    # all. They begin or end the visit to which {.listed} gives their instant and their type.
    #
    # @param ledger [Ledger::Readable]
    # @param type [Catalogue::EventType]
    # @param first [Date, nil] only of visits from this day on
    # @param properties [Array<String>] that are wanted beside {KEY}, as far as the type has them
    # @param beside [Array<String>] see {Ledger::Readable#beside}
    # @param keep [Symbol] `first` or `last`
    # @return [Polars::DataFrame]
    def outermost(ledger, type, first, properties:, beside: [], keep: :first)
      wanted = (properties & type.properties.keys).map { |name| Ledger::Layout.property(name) }
      only = ["profile_id", "occurred_at", "day", *wanted]
      events = ledger.events_beside(type.name, ["visit_start", *beside], first, only: only)
      events = events.filter(Polars.col("visit_start") == Polars.col("occurred_at")) if keep == :first
      events.unique(subset: %w[profile_id occurred_at], maintain_order: true, keep: keep.to_s)
            .with_columns([Polars.lit(type.id).cast(Ledger::Spine::COLUMNS.fetch("type")).alias("type")])
            .select([*KEY, *wanted, *beside])
    end

    # Every visit, one row each.
    #
    # @param rows [Polars::DataFrame] of the spine, see {Ledger::Spine::COLUMNS}, from some day on or all of it
    # @param ends [Boolean] whether the last event of each is wanted
    # @return [Polars::DataFrame] `profile_id`; `day` and `occurred_at` of its first event; `type` of that event;
    #   `length` in microseconds; `events`, how many; by profile and time. A visit that began before the rows is left
    #   out. {LAST_KEY} besides, where the last is wanted
    def listed(rows, ends: false)
      profile, start, at, row = %w[profile_id visit_start occurred_at row].map { |name| Polars.col(name) }
      rows = rows.filter(start.is_not_null) if rows["visit_start"].null_count.positive?
      rows = rows.with_row_index(name: "row")
      begins = ((profile != profile.shift(1)) | (start != start.shift(1))).fill_null(true)
      last = rows.lazy.filter(begins.shift(-1).fill_null(true))
      lasts = last.select([at.alias("last_at"), row.alias("last_row"), Polars.col("type").alias("last_type")]).collect
      of_runs(rows.filter(begins).hstack(lasts).filter(at == start), ends)
    end

    def of_runs(runs, ends)
      columns = [Polars.col("profile_id").cast(Polars::Int64), Polars.col("day").cast(Polars::Int32),
                 Polars.col("occurred_at"), Polars.col("type")]
      length = (Polars.col("last_at") - Polars.col("visit_start")).alias("length")
      events = (Polars.col("last_row") - Polars.col("row") + 1).cast(Polars::Int64).alias("events")
      runs.select([*columns, length, events, *(LAST_KEY.drop(1) if ends)])
    end
    private_class_method :of_runs

    # How many visits the whole base paid in some days.
    #
    # @param generation [Ledger::Generation]
    # @param from [Date]
    # @param to [Date] included
    # @param gap [Integer] as in {of}
    # @return [Integer] visits that began in these days, taking nothing before them into account
    def count(generation, from, to, gap)
      rows = generation.spine.filter(Polars.col("day").is_between(Calendar.number(from), Calendar.number(to)))
      system = Ledger::Spine.system_types(generation.catalogue.event_types.values)
      start = Polars.col("visit_start")
      profile = Polars.col("profile_id")
      begins = ((start != start.shift(1)) | (profile != profile.shift(1))).fill_null(true)
      Ledger::Spine.visited(rows, system, gap).filter(start.is_not_null).select([begins.sum]).item || 0
    end

    # @param instants [Array<Integer>] of all events of one profile, in order, microseconds
    # @param gap [Integer] the longest gap inside a visit, microseconds; a gap of exactly that long ends nothing
    # @return [Array<Visit>] in order
    def of(instants, gap)
      instants.each_with_index.slice_when { |(before, _), (after, _)| after - before > gap }.map do |run|
        Visit.new(run.first[0], run.last[0], run.size, run.first[1]..run.last[1])
      end
    end
  end
end
