# frozen_string_literal: true

module Estrel
  module Audience
    # How two to six audiences overlap: every exact combination of them, each audience's own figures, and how far every
    # pair goes together.
    class Overlap
      MOST = 6
      # How many values a split tells apart.
      TOP = 8

      # @param evaluator [Evaluator, ShardedEvaluator]
      # @param definitions [Array<Definition>] two to {MOST}
      # @param split [Split, nil]
      # @param top [Integer] values of the split told apart; the others are added up
      def initialize(evaluator, definitions, split: nil, top: TOP)
        @evaluator = evaluator
        @definitions = definitions
        @split = split
        @top = top
      end

      # @return [Hash] `base`, `values` (of the split; a null one for "not set" and `other` told in {#to_h} rows), `any`
      #   (people in at least one), `regions` ({#region}), `audiences` and `pairs`
      def to_h
        { base: base, any: base - (counts[0] || 0), columns: columns.map { |column| column.slice(:kind, :value) },
          regions: regions, audiences: audiences, pairs: pairs }
      end

      # @param names [Array<String>] of the audiences
      # @return [String] one or two plain sentences
      def takeaway(names)
        any = base - counts[0]
        return "Nobody is in any of these audiences." if any.zero?

        all = counts[(1 << names.size) - 1]
        together = names.size == 2 ? "both" : "all #{names.size}"
        in_all = all.zero? ? "nobody" : Wording.number(all)
        "#{people(any)} in at least one of them, #{in_all} in #{together}. #{closest(names)}".strip
      end

      private

      # The pair that goes together most, or least, against chance.
      def closest(names)
        told = pairs.select { |pair| pair[:lift]&.positive? }
        pair = told.max_by { |one| Math.log(one[:lift]).abs } or return ""
        one, other = names.values_at(*pair[:pair]).map { |name| "“#{name}”" }
        times = pair[:lift] >= 1 ? "#{pair[:lift].round(1)} times" : "#{(pair[:lift] * 100).round} % of"
        "#{Wording.number(pair[:count])} are in #{one} and #{other}, #{times} what chance would give."
      end

      def people(count) = "#{Wording.number(count)} #{count == 1 ? "person is" : "people are"}"

      def base = @base ||= @evaluator.base

      def combinations = @combinations ||= @evaluator.combinations(@definitions, split: @split)

      # People per exact combination.
      def counts
        @counts ||= combinations.each_with_object(Hash.new(0)) { |((code, _), people), sum| sum[code] += people }
      end

      def sizes = @sizes ||= @definitions.each_index.map { |bit| together(1 << bit) }

      # People who are in all audiences of a mask, whatever else they are in.
      def together(mask) = counts.sum { |code, people| code.allbits?(mask) ? people : 0 }

      # Every combination, also the empty ones: 2ⁿ of them, those in none left out.
      def regions
        (1...(1 << @definitions.size)).map do |code|
          { inside: bits(code), count: counts[code], share: share(counts[code], base),
            lift: lift(counts[code], expected(code)), split: columns.map { |column| in_column(code, column) } }
        end
      end

      def audiences
        @definitions.each_index.map do |bit|
          own = counts[1 << bit]
          { count: sizes[bit], only: own, only_share: share(own, sizes[bit]), share: share(sizes[bit], base) }
        end
      end

      def pairs
        (0...@definitions.size).to_a.combination(2).map do |one, other|
          both = together((1 << one) | (1 << other))
          { pair: [one, other], count: both, shares: [share(both, sizes[one]), share(both, sizes[other])],
            lift: lift(both, sizes[one].fdiv([base, 1].max) * sizes[other]) }
        end
      end

      # How many people would be in exactly this combination if being in one audience said nothing about the others.
      def expected(code)
        sizes.each_with_index.reduce(base.to_f) do |people, (size, bit)|
          inside = share(size, base)
          people * (code.nobits?(1 << bit) ? 1 - inside : inside)
        end
      end

      def lift(count, expected) = expected.zero? ? nil : count / expected

      def share(count, total) = total.zero? ? 0.0 : count.fdiv(total)

      def bits(code) = @definitions.each_index.reject { |bit| code.nobits?(1 << bit) }

      # The values of the split told apart, most people first; then the others, then who has none.
      def columns
        @columns ||= begin
          people = Hash.new(0)
          combinations.each { |(code, value), count| people[value] += count unless code.zero? }
          named = @split ? people.keys.compact.sort_by { |value| [-people[value], value] } : []
          [*named.first(@top).map { |value| { kind: "value", value: value, of: [value] } },
           *([{ kind: "other", value: nil, of: named.drop(@top) }] if named.size > @top),
           *([{ kind: "not_set", value: nil, of: [nil] }] if @split && people.key?(nil))]
        end
      end

      def in_column(code, column) = column[:of].sum { |value| combinations.fetch([code, value], 0) }
    end
  end
end
