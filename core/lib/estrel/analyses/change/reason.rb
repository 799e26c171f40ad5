# frozen_string_literal: true

module Estrel
  module Analyses
    class Change
      # One thing that a part of a change may come of: another mix of groups, or one group having changed otherwise than
      # the others.
      class Reason
        # @return [Decomposition]
        attr_reader :decomposition
        # @return [Decomposition::Group, nil] nil for the mix
        attr_reader :group
        # @return [Float] how much of the change it is
        attr_reader :amount
        # @return [Float] two-sided p-value of its being nothing
        attr_reader :p_value

        # @param decomposition [Decomposition]
        # @param group [Decomposition::Group, nil]
        # @param amount [Float]
        # @param left_out [Array<Float>] the same without one block of people each
        def initialize(decomposition, group, amount, left_out)
          @decomposition = decomposition
          @group = group
          @amount = amount
          sound = left_out.all?(&:finite?)
          @interval = sound ? Statistics::Means.jackknifed(amount, left_out) : [amount, amount]
          @p_value = sound ? Statistics::Means.jackknife_p_value(amount, left_out) : 1.0
        end

        # @return [Array(Float, Float)] the 95% interval
        attr_reader :interval

        # @return [Boolean]
        def mix? = group.nil?

        # @return [String] "quarter “Tannery Quay”", "the mix by quarter"
        def said
          name = decomposition.split.name
          mix? ? "mix of #{name}" : "#{name} #{English.quoted(decomposition.split.said(group.label))}"
        end

        # @param clear [Boolean] whether it is beyond chance
        # @return [Hash{Symbol => Object}] plain JSON
        def to_h(clear)
          { split: decomposition.split.name, kind: mix? ? "mix" : "behaviour",
            name: group && decomposition.split.said(group.label), said: said, amount: amount, low: interval.first,
            high: interval.last, clear: clear }
        end
      end
    end
  end
end
