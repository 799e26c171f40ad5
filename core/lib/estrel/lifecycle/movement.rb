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

      # @param counts [Hash{Array(String, String) => Integer}] people per state before and after, but for those never
      #   active at both
      # @param seen [Integer] people seen by the later day
      # @return [Movement]
      def self.of(counts, seen) = new(counts.merge(%w[never_active never_active] => seen - counts.values.sum))

      # @param counts [Hash{Array(String, String) => Integer}]
      def initialize(counts)
        @counts = counts.reject { |_, people| people.zero? }.freeze
        freeze
      end

      # @param other [Movement] of other people between the same days
      # @return [Movement] of both
      def +(other) = Movement.new(Analyses::Sum.of(counts, other.counts))

      # @param other [Movement] of some of these people
      # @return [Movement] of the others
      def -(other) = Movement.new(counts.to_h { |pair, people| [pair, people - other[*pair]] })

      # @param before [String] of {STATES}
      # @param after [String] of {STATES}
      # @return [Integer] people
      def [](before, after) = @counts.fetch([before, after], 0)

      # @param name [String] of {PARTS}
      # @return [Integer] people
      def part(name)
        before, after = PARTS.fetch(name)
        before.product(after).sum { |pair| self[*pair] }
      end

      # @return [Integer] how many more are new or active
      def net = part("joined") + part("reactivated") - part("lapsed")

      # @return [Float, nil] (joined + reactivated) ÷ lapsed; nil when nothing lapsed
      def gain_loss_ratio
        lapsed = part("lapsed")
        lapsed.zero? ? nil : (part("joined") + part("reactivated")).fdiv(lapsed)
      end

      # @return [Array<Array<Integer>>] people per state before (rows) and after (columns), both as {STATES}
      def table = STATES.map { |before| STATES.map { |after| self[before, after] } }

      # @return [Hash{Symbol => Object}] plain JSON
      def to_h
        { **PARTS.keys.to_h { |name| [name.to_sym, part(name)] }, net: net, gain_loss_ratio: gain_loss_ratio,
                                                                  table: table }
      end

      protected

      attr_reader :counts
    end
  end
end
