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

      # @return [Hash] `totals` (people per audience), `values` (how many different ones), and `rows`, the largest
      #   first, then the other ones, then who has none: `{kind:, value:, counts:, shares:, difference:, clause:}`;
      #   difference is that of the shares with its 95 % interval, see {Statistics.difference}, and null for one
      #   audience
      def to_h
        values = per_value
        named = values.keys.compact.sort_by { |value| [-values[value].sum, value] }
        top = named.first(@top)
        rest = named.drop(@top)
        rows = top.map { |value| row(@split.group(:value, value, top), values[value]) }
        rows << row(@split.group(:other, nil, top), added(values.values_at(*rest))) if rest.any?
        rows << row(@split.group(:not_set, nil, top), values[nil]) if values[nil]
        { totals: totals, values: named.size, rows: rows }
      end

      # @param names [Array<String>] of the audiences
      # @return [String] a plain sentence
      def takeaway(names)
        rows = to_h[:rows]
        return "Nobody is there to be told apart." if rows.empty?

        names.size == 2 ? comparison(rows, names) : most(rows)
      end

      private

      def most(rows)
        first = rows.find { |row| row[:kind] == "value" }
        return "It is set for none of the #{Wording.number(totals.first)}." unless first

        unset = rows.find { |row| row[:kind] == "not_set" }
        said = "Most often “#{first[:value]}”: #{Wording.number(first[:counts].first)} of " \
               "#{Wording.number(totals.first)} (#{percent(first[:shares].first)} %)"
        unset ? "#{said}; not set for #{Wording.number(unset[:counts].first)}." : "#{said}."
      end

      # The value whose shares differ most, of those whose interval leaves out no difference.
      def comparison(rows, names)
        clear = rows.select { |row| (found = row[:difference]) && (found[:low].positive? || found[:high].negative?) }
        row = clear.max_by { |one| one[:difference][:estimate].abs }
        return "No share differs beyond chance between the two." unless row

        value = { "other" => "Other values", "not_set" => "Not set" }.fetch(row[:kind]) { "“#{row[:value]}”" }
        "#{value} differs most: #{percent(row[:shares][0])} % of “#{names[0]}” and #{percent(row[:shares][1])} % of " \
          "“#{names[1]}” (95 % interval of the difference: #{points(row[:difference][:low])} to " \
          "#{points(row[:difference][:high])} points)."
      end

      def percent(share) = (share * 100).round(1).then { |value| value == value.to_i ? value.to_i : value }

      def points(share) = format("%+.1f", share * 100).tr("-", "−")

      def combinations = @combinations ||= @evaluator.combinations(@definitions, split: @split)

      # People per value, one number per audience.
      def per_value
        found = Hash.new { |hash, value| hash[value] = Array.new(@definitions.size, 0) }
        combinations.each do |(code, value), people|
          @definitions.each_index { |bit| found[value][bit] += people unless code.nobits?(1 << bit) }
        end
        found.reject { |_, counts| counts.sum.zero? }
      end

      def totals
        @totals ||= @definitions.each_index.map do |bit|
          combinations.sum { |(code, _), people| code.nobits?(1 << bit) ? 0 : people }
        end
      end

      def added(lists) = lists.transpose.map(&:sum)

      def row(group, counts)
        shares = counts.zip(totals).map { |count, total| total.zero? ? 0.0 : count.fdiv(total) }
        { **group, counts: counts, shares: shares, difference: difference(counts) }
      end

      def difference(counts)
        return unless counts.size == 2 && totals.all?(&:positive?)

        Statistics.difference(counts[1], totals[1], counts[0], totals[0])
      end
    end
  end
end
