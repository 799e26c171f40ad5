# frozen_string_literal: true

module Estrel
  # Visits: runs of events of one profile with no quiet gap longer than the workspace's visit gap. Always computed,
  # never trusted from the sender.
  module Visits
    # One visit: instants of its first and last event, how many events it has, and their positions in what was given.
    Visit = Struct.new(:first, :last, :count, :positions) do
      # @return [Integer] microseconds from the first event to the last
      def duration = last - first
    end

    module_function

    # @param instants [Array<Integer>] of all events of one profile, in order, microseconds
    # @param gap [Integer] the longest quiet time inside a visit, microseconds; a gap of exactly that long ends nothing
    # @return [Array<Visit>] in order
    def of(instants, gap)
      instants.each_with_index.slice_when { |(before, _), (after, _)| after - before > gap }.map do |run|
        Visit.new(run.first[0], run.last[0], run.size, run.first[1]..run.last[1])
      end
    end
  end
end
