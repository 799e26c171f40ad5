# frozen_string_literal: true

module Estrel
  module Analyses
    # How two to six audiences overlap: every exact combination of them, each audience's own figures, and how far every
    # pair goes together. People per combination add up over the parts.
    class Overlap < Analysis
      MOST = 6
      # How many values of a split are told apart unless another number is asked for; the others are added up.
      TOP = 8

      # What everybody is, where it is not all people.
      BASES = { "customers" => %w[customer], "known" => %w[customer contact] }.freeze
      private_constant :BASES

      def partial(part, _found)
        return whole(part) unless base

        found = part.combinations([*audiences.map(&:definition), base], split)
        inside = found.select { |(code, _), _| code.anybits?(1 << audiences.size) }
        { everybody: inside.values.sum,
          combinations: inside.transform_keys { |code, value| [code & ((1 << audiences.size) - 1), value] } }
      end

      def answer((found))
        @everybody, @combinations = found.values_at(:everybody, :combinations)
        Answer.new(finding: finding, picture: picture, tables: [regions_table, pairs_table],
                   caveats: base ? ["Base: #{among} only."] : [])
      end

      private

      def whole(part)
        { everybody: part.base, combinations: part.combinations(audiences.map(&:definition), split) }
      end

      def rests_on = [*super, base&.root&.key]

      # Among whom the audiences are looked at; nil for everybody.
      def base
        @base ||= base_condition && workspace.stored.definition({ "all" => [base_condition] }, workspace.catalogue)
      end

      def base_condition
        case question["base"]
        when nil, "everybody" then nil
        when *BASES.keys then { "profile_type" => { "is" => BASES[question["base"]] } }
        else { "audience" => { "id" => Integer(question["base"], 10) } }
        end
      end

      def among
        case question["base"]
        when "customers" then "customers"
        when "known" then "customers and contacts"
        else "the people in #{English.quoted(workspace.stored.audience(Integer(question["base"], 10)).name)}"
        end
      end

      def picture
        { everybody: @everybody, any: any, among: base_condition, ids: audiences.map(&:id), names: names,
          columns: columns.map { |column| column.slice(:kind, :value) }, regions: regions, audiences: each,
          pairs: pairs }
      end

      def names = audiences.map(&:name)

      def top = question["top"] || TOP

      def any = @everybody - (counts[0] || 0)

      def finding
        return "No one is in any of these audiences." if any.zero?

        in_all = counts[(1 << names.size) - 1]
        together = names.size == 2 ? "both" : "all #{names.size}"
        "#{English.people(any)} in at least one audience, #{in_all.zero? ? "no one" : English.number(in_all)} in " \
          "#{together}. #{closest}".strip
      end

      # The pair that goes together most, or least, of those beyond chance among all pairs; one with nobody in common
      # goes together least of all.
      def closest
        clear = Statistics::Holm.beyond_chance(pairs.select { |pair| pair[:lift] }) { |pair| pair[:p_value] }
        pair = clear.max_by { |one| one[:lift].zero? ? Float::INFINITY : Math.log(one[:lift]).abs } or return ""
        one, other = names.values_at(*pair[:pair]).map { |name| English.quoted(name) }
        return nothing_in_common(pair, one, other) if pair[:lift].zero?

        lift, *interval = pair.values_at(:lift, :low, :high).map { |ratio| English.ratio(ratio) }
        "Strongest association: #{one} and #{other}, #{English.people(pair[:count])}, lift #{lift} " \
          "(95% CI #{interval.join(" to ")})."
      end

      def nothing_in_common(pair, one, other)
        expected = sizes.values_at(*pair[:pair]).reduce(:*).fdiv(@everybody)
        "#{one} and #{other} do not overlap (#{English.people(expected.round)} expected)."
      end

      # People per exact combination.
      def counts
        @counts ||= @combinations.each_with_object(Hash.new(0)) { |((code, _), people), sum| sum[code] += people }
      end

      def sizes = @sizes ||= audiences.each_index.map { |bit| together(1 << bit) }

      # People who are in all audiences of a mask, whatever else they are in.
      def together(mask) = counts.sum { |code, people| code.allbits?(mask) ? people : 0 }

      # Every combination, also the empty ones: 2ⁿ of them, those in none left out.
      def regions
        @regions ||= (1...(1 << audiences.size)).map do |code|
          { inside: bits(code), count: counts[code], share: share(counts[code], @everybody),
            lift: lift(counts[code], expected(code)), split: columns.map { |column| in_column(code, column) } }
        end
      end

      def each
        audiences.each_index.map do |bit|
          own = counts[1 << bit]
          { count: sizes[bit], only: own, only_share: share(own, sizes[bit]), share: share(sizes[bit], @everybody) }
        end
      end

      def pairs
        @pairs ||= audiences.each_index.to_a.combination(2).map do |one, other|
          both = together((1 << one) | (1 << other))
          { pair: [one, other], count: both, shares: [share(both, sizes[one]), share(both, sizes[other])],
            **lifted(Statistics::Lift.of(both, sizes.values_at(one, other), [both], @everybody)) }
        end
      end

      def lifted(found)
        found ||= { estimate: nil, low: nil, high: nil, p_value: nil }
        { lift: found[:estimate], **found.slice(:low, :high, :p_value) }
      end

      # How many people would be in exactly this combination if being in one audience said nothing about the others.
      def expected(code)
        sizes.each_with_index.reduce(@everybody.to_f) do |people, (size, bit)|
          inside = share(size, @everybody)
          people * (code.nobits?(1 << bit) ? 1 - inside : inside)
        end
      end

      def lift(count, expected) = expected.zero? ? nil : count / expected

      def share(count, total) = total.zero? ? 0.0 : count.fdiv(total)

      def bits(code) = audiences.each_index.reject { |bit| code.nobits?(1 << bit) }

      # The values of the split told apart, most people first; then the others, then who has none.
      def columns
        @columns ||= begin
          people = Hash.new(0)
          @combinations.each { |(code, value), count| people[value] += count unless code.zero? }
          named = split ? people.keys.compact.sort_by { |value| [-people[value], value] } : []
          [*named.first(top).map { |value| { kind: "value", value: value, of: [value] } },
           *([{ kind: "other", value: nil, of: named.drop(top) }] if named.size > top),
           *([{ kind: "not_set", value: nil, of: [nil] }] if split && people.key?(nil))]
        end
      end

      def in_column(code, column) = column[:of].sum { |value| @combinations.fetch([code, value], 0) }

      def regions_table
        shown = regions.select { |region| region[:count].positive? }.sort_by { |region| -region[:count] }
        rows = shown.map do |region|
          inside = region[:inside]
          members = [*audiences.each_index.map { |bit| member(bit, inside.include?(bit)) }, *([base_condition] if base)]
          Table.row([said(inside), *region.values_at(:count, :share, :lift), *region[:split]],
                    people: { "all" => members }, cells: split_cells(members))
        end
        Table.new("combinations", "All combinations",
                  [["in", "Exactly in", "text"], ["people", "People", "people"],
                   ["share", base ? "% of base" : "% of all people", "share"],
                   ["lift", "Lift", "ratio"], *split_columns], rows)
      end

      def split_columns
        columns.each_with_index.map do |column, index|
          name = column[:value] ? split.said(column[:value]) : column[:kind].tr("_", " ")
          ["split_#{index}", name, "people"]
        end
      end

      def split_cells(members)
        named = columns.filter_map { |column| column[:value] if column[:kind] == "value" }
        columns.each_with_index.to_h do |column, index|
          having = split.group(column[:kind].to_sym, column[:value], named)[:people_in]
          ["split_#{index}", { "all" => [*members, having] }]
        end
      end

      # "Commuters and Winter riders, not Weekenders"
      def said(inside)
        outside = audiences.each_index.to_a - inside
        apart = outside.empty? ? "" : ", not #{English.either(names.values_at(*outside))}"
        "#{English.list(names.values_at(*inside), "and")}#{apart}"
      end

      def member(bit, inside)
        condition = { "audience" => { "id" => audiences[bit].id } }
        inside ? condition : { "not" => condition }
      end

      def pairs_table
        rows = pairs.map do |pair|
          Table.row([*names.values_at(*pair[:pair]), pair[:count], *pair[:shares], *pair.values_at(:lift, :low, :high)],
                    people: { "all" => [*pair[:pair].map { |bit| member(bit, true) }, *([base_condition] if base)] })
        end
        Table.new("pairs", "Pairs",
                  [["one", "Audience", "text"], ["other", "and", "text"],
                   ["people", "People in both", "people"], ["of_one", "% of first", "share"],
                   ["of_other", "% of second", "share"],
                   ["lift", "Lift", "ratio"], ["low", "from", "ratio"], ["high", "to", "ratio"]], rows)
      end
    end
  end
end
