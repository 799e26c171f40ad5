# frozen_string_literal: true

module Estrel
  module Analyses
    # What analyses of groups beside each other have in common: values of a split are counted in a round of their own,
    # before the most frequent can be told apart.
    module Grouped
      def more?(found) = found.size < (groups.counted_first? ? 2 : 1)

      def doing(found) = counting?(found) ? "Counting the values" : super

      private

      def counting?(found) = groups.counted_first? && found.empty?

      def groups = @groups ||= Groups.new(audiences, split, question["top"])
    end
  end
end
