# frozen_string_literal: true

module Estrel
  module Analyses
    # The states of several groups of people beside each other, and how each moved over the complete periods of a range.
    # People add up over the parts; of a split its values are counted first, so that the most frequent are told apart.
    # Whoever goes from one value to another counts by the one she had at the time.
    class StatesByGroup < Analysis
      include Grouped

      # Smaller groups are not compared.
      FEWEST = 50
      PARTS = Lifecycle::Movement::PARTS.keys.freeze
      private_constant :PARTS

      def self.states? = true

      def partial(part, found)
        return counts(part) if counting?(found)

        { developed: developed(part, found.first), firsts: part.lifecycle.firsts }
      end

      def answer(found)
        named = groups.named(split ? valued(found.first) : found.first)
        @rows = named.zip(found.last[:developed] || []).map { |group, developed| row(group, developed) }
        @beginning = Lifecycle::Beginning.new(found.last[:firsts].keys)
        picture = { from: steps.dates.first + 1, to: workspace.as_of, step: steps.unit,
                    periods: steps.periods(workspace.today), rows: @rows }
        Answer.new(finding: finding, picture: picture, tables: [table], caveats: caveats)
      end

      private

      def rests_on = [*super, steps.key, recorded_from]

      def changing? = split&.changes? && split.parts.none?(&:as_of?)

      # People per value; where these change, now and, added up, at all dates.
      def counts(part)
        now = groups.counts(part)
        return now unless changing?

        ever = steps.dates.map { |date| groups.counts(at(part, date)) }.reduce(now) { |one, other| Sum.of(one, other) }
        ever.to_h { |value, people| [value, [now.fetch(value, 0), people]] }
      end

      # People per value now; values that nobody has any more have some at earlier dates.
      def valued(counts)
        changing? ? counts.reject { |_, (_, ever)| ever.zero? }.transform_values(&:first) : counts
      end

      def developed(part, counts)
        return developed_then(part, counts) if changing?

        lifecycle = part.lifecycle
        groups.of(part, counts).flat_map { |grouping| Lifecycle::Development.of(lifecycle, steps, grouping) }
      end

      def developed_then(part, counts)
        labels = groups.labels(valued(counts))
        people = part.within_rule_set
        values = Polars.concat(steps.dates.map { |date| at(people, date).values_of(split).alias("value") })
        Lifecycle::Regrouped.of(people, steps, labels.size, Lifecycle::Grouping.numbers(values, labels))
      end

      # Who goes by what: before attributes are recorded their values of today are the best there is.
      def at(part, date) = recorded_from && date < recorded_from ? part : part.at(date)

      # The day from which all attributes that people are told apart by are known.
      def recorded_from
        return @recorded_from if defined?(@recorded_from)

        values = AttributeValues.new(workspace.ledger)
        @recorded_from = (changing? ? split.attributes : []).filter_map { |name| values.begins(name) }.max
      end

      def caveats
        return [] unless changing?

        told = "Groups are as of each date; for a period, as of its start."
        return [told] unless recorded_from && recorded_from > steps.dates.first

        ["#{told} History starts on #{English.date(recorded_from)}; before that, the value on " \
         "#{English.date(workspace.as_of)} is used."]
      end

      def steps = @steps ||= steps_of_range

      # `ratio` over all complete periods and `ratios` per period: nil where nobody lapsed or the period is incomplete.
      def row(named, developed)
        whole = developed.complete(workspace.today).map(&:last)
        parts = PARTS.to_h { |name| [name, whole.sum { |movement| movement.part(name) }] }
        lapsed = parts["lapsed"]
        { **named, people: developed.people(developed.last), states: developed.states(developed.last),
                   before: developed.states(0), parts: parts,
                   ratio: lapsed.zero? ? nil : gained({ parts: parts }).fdiv(lapsed),
                   ratios: ratios(developed) }
      end

      def ratios(developed)
        told = steps.periods(workspace.today).zip(developed.movements)
        told.map { |period, movement| movement.gain_loss_ratio if period[:complete] }
      end

      def finding
        return "No one was known by #{English.date(workspace.as_of)}." if @rows.sum { |row| row[:people] }.zero?
        return "No complete #{steps.unit} in this range." if steps.periods(workspace.today).none? do |one|
          one[:complete]
        end
        return too_early unless @beginning.reached?(steps.dates.first, workspace.rules.churned_after)

        compared = @rows.select { |row| row[:ratio] && row[:people] >= FEWEST }
        return "Not enough data: no two groups of #{FEWEST} or more people have lapsed people." if compared.size < 2

        highest, lowest = compared.minmax_by { |row| -row[:ratio] }
        return "No significant difference in gain/loss ratio between groups." unless differ?(highest, lowest, compared)

        "Highest gain/loss ratio: #{ratio(highest)} (#{name(highest)}). Lowest: #{ratio(lowest)} (#{name(lowest)})."
      end

      def too_early
        "Not enough data: activity begins on #{English.date(@beginning.date)}, and no one can have churned until " \
          "#{English.date(@beginning.date + workspace.rules.churned_after)}."
      end

      # Whether two ratios differ by more than chance explains, each of all pairs being one comparison (Bonferroni). The
      # variance of the logarithm of a ratio of two counts is the sum of their reciprocals; half a person more in each
      # keeps it finite (J. B. S. Haldane, Annals of Human Genetics 20 (1956), 309–311).
      def differ?(one, other, compared)
        counts = [one, other].map { |row| [gained(row) + 0.5, row[:parts]["lapsed"] + 0.5] }
        first, second = counts.map { |gained, lapsed| Math.log(gained / lapsed) }
        deviation = (first - second) / Math.sqrt(counts.flatten.sum { |count| 1 / count })
        pairs = compared.size * (compared.size - 1) / 2
        Statistics::Normal.two_sided(deviation) * pairs < 0.05
      end

      def gained(row) = row[:parts].values_at("joined", "reactivated").sum

      def name(row)
        row[:value] && row[:kind] != "other" ? English.quoted(label(row)) : row[:kind].tr("_", " ").capitalize
      end

      def ratio(row) = English.ratio(row[:ratio])

      def table
        rows = @rows.map do |row|
          cells = Lifecycle::SEEN_STATES.to_h { |state| [state, { "all" => [row[:people_in], people_in([state])] }] }
          Table.row([label(row), row[:people], *row[:states].values_at(*Lifecycle::SEEN_STATES),
                     *row[:parts].values_at("joined", "reactivated", "lapsed"), row[:ratio]],
                    people: row[:people_in], cells: cells)
        end
        Table.new("groups", "By group",
                  [["group", "Group", "text"], ["people", "People", "people"],
                   *Lifecycle::SEEN_STATES.map { |state| [state, state, "people", nil, "people"] },
                   *%w[joined reactivated lapsed].map { |name| [name, name, "count"] },
                   ["ratio", "Gain/loss ratio", "ratio"]], rows)
      end
    end
  end
end
