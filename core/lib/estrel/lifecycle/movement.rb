# frozen_string_literal: true

module Estrel
  class Lifecycle
    # How people went from state to state between the ends of two days: the full table of states before and after, over
    # all who had been seen by the later one, with its named parts. Frozen.
    #
    # Always: (new + active after) − (new + active before) = joined + reactivated − lapsed.
    class Movement
      include Analyses::Sum::Reversible

      ALIVE = %w[new active].freeze
      GONE = %w[dormant churned].freeze
      # Each named part as states before and states after.
      PARTS = { "joined" => [%w[never_active], ALIVE], "came_and_lapsed" => [%w[never_active], GONE],
                "reactivated" => [GONE, ALIVE], "retained" => [ALIVE, ALIVE], "lapsed" => [ALIVE, GONE],
                "newly_churned" => [%w[dormant], %w[churned]] }.freeze
      # Of each part, the places of its cells in the table written in one row.
      PLACES = PARTS.transform_values do |sides|
        before, after = sides.map { |states| states.map { |state| STATES.index(state) } }
        before.product(after).map { |row, column| (row * STATES.size) + column }.freeze
      end.freeze
      private_constant :PLACES

      # A table with nobody in it, for counting.
      #
      # @return [Array<Integer>] people per state before and after, one row of {STATES} after the other
      def self.nobody = Array.new(STATES.size**2, 0)

      # @param before [Integer] position in {STATES}
      # @param after [Integer] position in {STATES}
      # @return [Integer] the place in such a table
      def self.place(before, after) = (before * STATES.size) + after

      # @param counts [Array<Integer>] see {nobody}, but for those never active at both
      # @param seen [Integer] people seen by the later day
      # @return [Movement]
      def self.of(counts, seen)
        never = STATES.index("never_active")
        new(counts.dup.tap { |all| all[place(never, never)] = seen - counts.sum })
      end

      # @return [Array<Integer>] see {nobody}
      attr_reader :counts

      # @param counts [Array<Integer>] see {nobody}
      def initialize(counts)
        @counts = counts.freeze
        freeze
      end

      # @param other [Movement] of other people between the same days
      # @return [Movement] of both
      def +(other)
        more = other.counts
        Movement.new(Array.new(counts.size) { |place| counts[place] + more[place] })
      end

      # @param other [Movement] of some of these people
      # @return [Movement] of the others
      def -(other)
        gone = other.counts
        Movement.new(Array.new(counts.size) { |place| counts[place] - gone[place] })
      end

      # @param before [String] of {STATES}
      # @param after [String] of {STATES}
      # @return [Integer] people
      def [](before, after) = counts[Movement.place(*[before, after].map { |state| STATES.index(state) })]

      # @param name [String] of {PARTS}
      # @return [Integer] people
      def part(name) = counts.values_at(*PLACES.fetch(name)).sum

      # @return [Integer] how many more are new or active
      def net = part("joined") + part("reactivated") - part("lapsed")

      # @return [Float, nil] (joined + reactivated) ÷ lapsed; nil when nothing lapsed
      def gain_loss_ratio
        lapsed = part("lapsed")
        lapsed.zero? ? nil : (part("joined") + part("reactivated")).fdiv(lapsed)
      end

      # @return [Array<Array<Integer>>] people per state before (rows) and after (columns), both as {STATES}
      def table = counts.each_slice(STATES.size).to_a

      # @return [Hash{Symbol => Object}] plain JSON
      def to_h
        { **PARTS.keys.to_h { |name| [name.to_sym, part(name)] }, net: net, gain_loss_ratio: gain_loss_ratio,
                                                                  table: table }
      end
    end
  end
end
