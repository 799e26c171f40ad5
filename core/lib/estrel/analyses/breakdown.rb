# frozen_string_literal: true

module Estrel
  module Analyses
    # Everybody, or one or two audiences, split by something: the most frequent values, the other ones together, and who
    # has none. Of two audiences the shares of each value are compared. People per value add up over the parts; which
    # values are the most frequent is looked at after that.
    class Breakdown < Analysis
      # How many values are told apart unless another number is asked for.
      TOP = 20
      NAMES = { "other" => "other", "not_set" => "not set" }.freeze

      def partial(part, _found) = part.combinations(definitions, split)

      def answer((combinations))
        @combinations = combinations
        Answer.new(finding: finding, picture: picture, tables: [table], caveats: caveats)
      end

      private

      def definitions
        @definitions ||= if audiences.any? then audiences.map(&:definition)
                         else [Audience::Definition.parse({ "all" => [] }, catalogue: workspace.catalogue)]
                         end
      end

      def top = question["top"] || TOP

      def picture = { ids: audiences.map(&:id), names: names, totals: totals, values: named.size, rows: rows }

      def names = audiences.map(&:name)

      def two? = names.size == 2

      def finding
        return "No people to break down." if rows.empty?

        two? ? comparison : most
      end

      def most
        first = rows.select { |row| row[:kind] == "value" }.max_by { |row| row[:counts].first }
        return "Not set for any of the #{English.number(totals.first)} people." unless first

        unset = rows.find { |row| row[:kind] == "not_set" }
        most = "Most frequent: #{English.quoted(split.said(first[:value]))}, " \
               "#{English.precise(first[:shares].first)} " \
               "(#{English.number(first[:counts].first)} of #{English.number(totals.first)})."
        unset ? "#{most} Not set for #{English.number(unset[:counts].first)}." : most
      end

      # The value whose shares differ most, of those that differ beyond chance, so many having been compared.
      def comparison
        return "One of the two audiences is empty." unless totals.all?(&:positive?)

        clear = Statistics::Holm.beyond_chance(rows) do |row|
          row[:difference][:p_value]
        end
        row = clear.max_by { |one| one[:difference][:estimate].abs }
        return "No significant difference between the two audiences." unless row

        value = { "other" => "other values", "not_set" => "not set" }
                .fetch(row[:kind]) { English.quoted(split.said(row[:value])) }
        one, other = row[:shares].map { |share| English.precise(share) }
        "Largest difference: #{value}, #{one} of #{English.quoted(names[0])} vs #{other} of " \
          "#{English.quoted(names[1])} " \
          "(#{English.interval_of_difference(row[:difference])})."
      end

      # People per value, one number per combination of audiences, by its code.
      def per_value
        @per_value ||= begin
          found = Hash.new { |hash, value| hash[value] = Array.new(1 << definitions.size, 0) }
          @combinations.each { |(code, value), people| found[value][code] += people if code.positive? }
          found.default_proc = nil
          found
        end
      end

      def exclusive = @exclusive ||= per_value.values.transpose.map(&:sum)

      def totals
        @totals ||= definitions.each_index.map do |bit|
          @combinations.sum { |(code, _), people| code.nobits?(1 << bit) ? 0 : people }
        end
      end

      def named
        @named ||= split.order&.intersection(per_value.keys) ||
                   per_value.keys.compact.sort_by { |value| [-counted(per_value[value]).sum, value] }
      end

      def rows
        @rows ||= begin
          told = named.first(top)
          rest = named.drop(top)
          found = told.map { |value| row(split.group(:value, value, told), per_value[value]) }
          found << row(split.group(:other, nil, told), per_value.values_at(*rest).transpose.map(&:sum)) if rest.any?
          found << row(split.group(:not_set, nil, told), per_value[nil]) if per_value[nil]
          found
        end
      end

      def row(group, codes)
        counts = counted(codes)
        shares = counts.zip(totals).map { |count, total| total.zero? ? 0.0 : count.fdiv(total) }
        { **group, counts: counts, shares: shares, difference: difference(codes) }
      end

      # People per audience, of those per combination.
      def counted(codes)
        definitions.each_index.map do |bit|
          codes.each_with_index.sum { |people, code| code.nobits?(1 << bit) ? 0 : people }
        end
      end

      # The second share less the first.
      def difference(codes)
        return unless two? && totals.all?(&:positive?)

        Statistics::Shares.overlapping(*[2, 1, 3].map { |code| [codes[code], exclusive[code]] })
      end

      def caveats
        return [] unless two?

        ["Difference = second minus first. The CI accounts for people in both audiences. The largest difference is " \
         "named only if significant after correction for multiple comparisons (Holm)."]
      end

      def table
        Table.new("breakdown", "By value",
                  [["value", "Value", split.by == "state" ? "state" : "text"], *audience_columns,
                   *(two? ? difference_columns : [])], rows.map { |row| table_row(row) })
      end

      def audience_columns
        (names.empty? ? ["People"] : names).each_with_index.flat_map do |name, index|
          [["people_#{index}", name, "people"], ["share_#{index}", "Share", "share"]]
        end
      end

      def difference_columns
        [["difference", "Difference", "points"], ["low", "from", "points"],
         ["high", "to", "points"]]
      end

      def table_row(row)
        figures = row[:counts].zip(row[:shares]).flatten
        difference = two? ? (row[:difference] || {}).values_at(:estimate, :low, :high) : []
        Table.row([named_value(row), *figures, *difference],
                  people: row[:people_in], cells: two? ? cells(row) : audiences_of(row))
      end

      # States are named where the table is shown.
      def named_value(row)
        return NAMES.fetch(row[:kind]) unless row[:value]

        split.by == "state" ? row[:value] : split.said(row[:value])
      end

      def audiences_of(row) = names.empty? ? {} : cells(row)

      def cells(row)
        audiences.each_with_index.to_h do |audience, index|
          ["people_#{index}", { "all" => [{ "audience" => { "id" => audience.id } }, row[:people_in]] }]
        end
      end
    end
  end
end
