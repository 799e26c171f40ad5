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

    module_function

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
