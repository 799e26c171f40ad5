# frozen_string_literal: true

module Estrel
  module Analyses
    # Definitions, as JSON, of people by their states on given days.
    module StatePeople
      module_function

      # Whoever had not been seen yet is never active too.
      #
      # @param states [Array<String>] of {Lifecycle::STATES}
      # @param rules [Hash] see {Stored#rules_condition}
      # @param on [Date, nil] nil for the as-of date
      # @return [Hash]
      def in(states, rules, on: nil)
        return { "not" => self.in(Lifecycle::STATES - states, rules, on: on) } if states.include?("never_active") && on

        { "lifecycle" => { "is" => states, "on" => on&.iso8601, **rules }.compact }
      end

      # @param before [Array<String>] states at the end of the earlier day
      # @param from [Date]
      # @param after [Array<String>] states at the end of the later day
      # @param to [Date]
      # @param rules [Hash]
      # @return [Hash] who went from the ones to the others
      def moved(before, from, after, to, rules)
        { "all" => [self.in(before, rules, on: from), self.in(after, rules, on: to)] }
      end
    end
  end
end
