# frozen_string_literal: true

module Estrel
  module Audience
    # One or two audiences split by something: the most frequent values, the other ones together, and who has none. Of
    # two audiences the shares of each value are compared.
    class Breakdown
      # How many values are told apart unless another number is wanted.
      TOP = 20

      # @param evaluator [Evaluator, ShardedEvaluator]
      # @param definitions [Array<Definition>] one or two
      # @param split [Split]
      # @param top [Integer]
      def initialize(evaluator, definitions, split, top: TOP)
        @evaluator = evaluator
        @definitions = definitions
        @split = split
        @top = top
      end

      # @return [Hash] `totals` (people per audience), `values` (how many different ones), and `rows`, the largest first,
      #   then the other ones, then who has none: `{kind:, value:, counts:, shares:, difference:, clause:}`; difference is
      #   that of the shares with its 95 % interval, see {Statistics.difference}, and null for one audience
      def to_h
        values = per_value
        named = values.keys.compact.sort_by { |value| [-values[value].sum, value] }
        top = named.first(@top)
        rest = named.drop(@top)
        rows = top.map { |value| row("value", value, values[value], @split.clause(value)) }
        rows << row("other", nil, added(values.values_at(*rest)), @split.other(top)) if rest.any?
        rows << row("not_set", nil, values[nil], @split.clause(nil)) if values[nil]
        { totals: totals, values: named.size, rows: rows }
      end

      private

      def combinations = @combinations ||= @evaluator.combinations(@definitions, split: @split)

      # People per value, one number per audience.
      def per_value
        found = Hash.new { |hash, value| hash[value] = Array.new(@definitions.size, 0) }
        combinations.each do |(code, value), people|
          @definitions.each_index { |bit| found[value][bit] += people unless (code & (1 << bit)).zero? }
        end
        found.reject { |_, counts| counts.sum.zero? }
      end

      def totals
        @totals ||= @definitions.each_index.map do |bit|
          combinations.sum { |(code, _), people| (code & (1 << bit)).zero? ? 0 : people }
        end
      end

      def added(lists) = lists.transpose.map(&:sum)

      def row(kind, value, counts, clause)
        shares = counts.zip(totals).map { |count, total| total.zero? ? 0.0 : count.fdiv(total) }
        { kind: kind, value: value, counts: counts, shares: shares, difference: difference(counts), clause: clause }
      end

      def difference(counts)
        Statistics.difference(counts[1], totals[1], counts[0], totals[0]) if counts.size == 2 && totals.all?(&:positive?)
      end
    end
  end
end
