# frozen_string_literal: true

module Estrel
  module Analyses
    # What analyses of groups beside each other have in common: values of a split are counted in a round of their own,
    # before the most frequent can be told apart.
    module Grouped
      def more?(found) = found.size < (groups.counted_first? ? 2 : 1)

      def doing(found) = counting?(found) ? "Counting the values" : super

      # In one order always, since what parts have answered is kept under what they were asked with.
      def settled(round, found)
        if counting?(found)
          round.sort_by { |value, _| [value.nil? ? 1 : 0, value.to_s] }.to_h
        else
          super
        end
      end

      private

      # @param group [Hash{Symbol => Object}] see {Groups#named}
      # @return [String]
      def label(group)
        case group[:kind]
        when "other" then English.counted(group[:value].to_i, "other value")
        when "not_set" then "not set"
        else split && group[:kind] != "audience" ? split.said(group[:value]) : group[:value]
        end
      end

      def counting?(found) = groups.counted_first? && found.empty?

      def groups = @groups ||= Groups.new(audiences, split, question["top"])
    end
  end
end
