# frozen_string_literal: true

module Estrel
  module Analyses
    # What people did before and after a day of their own: on which they did something for the first time, or the same
    # date for all of an audience. Everybody's day 0 is laid over the others'; day 0 itself counts for neither side.
    #
    # Looked at are people who had been known for all the days before and whose days after are over. Beside them stands,
    # where there is one, a group of people who did not do it but were alike, see {Matching}.
    #
    # The first round over the parts finds whom to look at; then somebody alike is looked for, round by round, until
    # everybody has one or all have been looked at; the last round looks at those. What each person has is put together
    # from the parts and compared at the end.
    class BeforeAfter < Analysis
      CAVEAT = "This is correlation: people choose what they do. Only a holdout shows cause and effect."
      ALIKE_IN = "Matched people had not done it by that day. Matched on: state and days inactive on the day before, " \
                 "activity on day 0, events in the before-period, and days known. Other differences may remain."
      DATE_CAVEAT = "Includes anything else that changed around this date, such as the season."
      ALIKE = Matching::ALIKE
      private_constant :CAVEAT, :ALIKE_IN, :DATE_CAVEAT, :ALIKE

      def more?(found) = found.empty? || (matched?(found) && !followed?(found))

      def doing(found)
        return "Selecting people" if found.empty?

        searching?(found) ? "Matching similar people" : "Measuring matched people"
      end

      def partial(part, found)
        return first_round(part) if found.empty?
        return matching(part).candidates(wanted(found), stretches[searches(found).size]) if searching?(found)

        followed(part, pairs(found))
      end

      def answer(found)
        @found = found.first
        @people = @found[:each].sort(%w[profile_id day])
        @beside = beside(found) if matched?(found) && pairs(found).height.positive?
        Answer.new(finding: finding, picture: picture, tables: tables, caveats: caveats)
      end

      # Each person beside the one at the same place among those alike.
      #
      # @param found [Array] of the rounds
      # @return [Polars::DataFrame] `profile_id`, `matched_id`, `day`, and what is known of each, that of the matched
      #   ones with "_theirs"
      def pairs(found)
        @pairs ||= begin
          own, others = [found.first[:alike], candidates(found)].map { |rows| Matching.placed(rows).drop("order") }
          theirs = Matching::MEASURED.to_h { |name| [name, "#{name}_theirs"] }
          own.join(others.rename({ "profile_id" => "matched_id", **theirs }), on: [*ALIKE, "place"], how: "inner")
             .with_columns([Polars.col("active").alias("active_theirs")]).sort(%w[profile_id day])
        end
      end

      private

      def rests_on = [start.key, metric.key]

      def before = question["before"] || 28

      def after = question["after"] || 28

      def metric = @metric ||= Metric.parse(question["metric"], workspace.catalogue)

      def start = @start ||= question["first"] ? first_start : date_start

      def first_start
        from, to = %w[from to].map do |name|
          day(name) || raise(Invalid.at(name, "choose the period of the first event"))
        end
        Start.first(Metric.selection(question["first"], workspace.catalogue, "first"), from, to, workspace.catalogue)
      end

      def date_start
        date = day("date") or raise Invalid.at("", "choose what was done for the first time, or a date")
        if date > workspace.as_of
          raise Invalid.at("date", "the date is after the as-of date (#{English.date(workspace.as_of)})")
        end

        Start.date(date, question["audience"] && workspace.stored.audience(question["audience"]))
      end

      def first_round(part)
        starts = start.days(part).join(part.first_seen, on: "profile_id", how: "left")
        late = Polars.col("first_seen_day") > Polars.col("day") - before
        over = Polars.col("day") <= Calendar.number(workspace.as_of) - after
        people = starts.filter(late.is_not & over).select(%w[profile_id day])
        { starts: starts.height, known_too_late: starts.filter(late).height,
          not_over: starts.filter(late.is_not & over.is_not).height,
          alike: matchable? ? matching(part).alike(people) : nil, **rates(part).of(people) }
      end

      def rates(part) = Rates.new(part, metric, before: before, after: after)

      def matching(part) = Matching.new(part, start, metric, before: before)

      # Whether there can be anybody alike: there have to be states, and somebody who did not do it.
      def matchable? = !workspace.rules.nil? && !(start.date? && question["audience"].nil?)

      def matched?(found) = matchable? && found.first[:alike].height.positive?

      def stretches = @stretches ||= Matching.stretches(workspace.ledger.base_size)

      # Whoever was found in each round of looking for people alike.
      def searches(found) = found.drop(1).filter_map { |round| round[:found] }

      def searching?(found) = searches(found).size < stretches.size && wanted(found).height.positive?

      # Whether the last round has been.
      def followed?(found) = found.size > 1 + searches(found).size

      # How many people of each likeness are still without anybody alike.
      def wanted(found)
        @wanted ||= {}
        @wanted[searches(found).size] ||= begin
          groups = found.first[:alike].group_by(ALIKE).agg([Polars.len.cast(Polars::Int64).alias("all")])
          taken = candidates(found).group_by(ALIKE).agg([Polars.len.cast(Polars::Int64).alias("taken")])
          left = Polars.col("all") - Polars.col("taken").fill_null(0)
          groups.join(taken, on: ALIKE, how: "left").with_columns([left.alias("n")])
                .filter(Polars.col("n") > 0).select([*ALIKE, "n"]) # rubocop:disable Style/NumericPredicate
        end
      end

      def candidates(found)
        Polars.concat([found.first[:alike].head(0), *searches(found)])
      end

      # Those of the pairs who belong to a part: those beside the others, and both as far before that the days after
      # end on the eve of day 0.
      def followed(part, pairs)
        own, theirs = %w[profile_id matched_id].map do |side|
          rows = pairs.select([Polars.col(side).alias("profile_id"), Polars.col("day")])
          rows.filter(rows["profile_id"].is_in(part.ids)).sort(%w[profile_id day])
        end
        { theirs: rates(part).of(theirs), own_then: earlier(part, own), theirs_then: earlier(part, theirs) }
      end

      def earlier(part, rows)
        back = after + 1
        known = rows.join(part.first_seen, on: "profile_id", how: "left")
                    .filter(Polars.col("first_seen_day") <= Polars.col("day") - back - before)
        found = rates(part).of(known.select([Polars.col("profile_id"), Polars.col("day") - back]))[:each]
        found.with_columns([(Polars.col("day") + back).cast(Polars::Int32).alias("day")])
      end

      def beside(found)
        told = found.last
        Beside.new(pairs(found), [@people, told[:own_then]], [told[:theirs][:each], told[:theirs_then]],
                   told[:theirs][:days], [found.first[:alike], found[1][:risk]])
      end

      def picture
        { people: @people.height, known_too_late: @found[:known_too_late], not_over: @found[:not_over],
          metric: metric.to_s, start: start.to_s, before: before, after: after,
          series: series(@people.height, @found[:days]), **side(@people), matched: matched }
      end

      # The mean per person of each day from the first before to the last after, with its interval.
      def series(people, sums)
        days = (-before..after).to_a
        found = days.map { |at| sums.fetch(at, [0, 0]) }
        days.zip(found, Statistics::Means.intervals(people, found)).map do |at, (sum, _), (low, high)|
          { day: at, mean: people.zero? ? nil : sum.fdiv(people), low: low, high: high }
        end
      end

      def side(rows)
        { mean_before: rows["before"].mean, mean_after: rows["after"].mean,
          difference: Statistics::Means.paired(rows["after"] - rows["before"]) }
      end

      # Those who have somebody like them, beside these.
      def matched
        return unless @beside

        @matched ||= begin
          found = @beside.to_h
          { **found, series: series(found[:pairs], @beside.days) }
        end
      end

      def finding
        return "No result yet: #{why_nobody}." if @people.height.zero?

        own = side(@people)
        own_change = "#{English.capitalized(metric.to_s)} changed from #{amount(own[:mean_before])} to " \
                     "#{amount(own[:mean_after])} per day for #{English.people(@people.height)} who #{start}" \
                     "#{interval(own[:difference])}."
        matched ? "#{own_change} #{against}" : own_change
      end

      def why_nobody
        return "0 people #{start}#{start.period}" if @found[:starts].zero?

        "of #{English.people(@found[:starts])}, #{number(@found[:known_too_late])} were known for less than " \
          "#{before} days; for the others the after-period has not ended"
      end

      def against
        change = "from #{amount(matched[:mean_before])} to #{amount(matched[:mean_after])}"
        others = start.date? ? "Matched people outside the audience" : "Matched people"
        "#{others} (n = #{number(matched[:pairs])}) changed #{change}: #{verdict}."
      end

      def verdict
        found = matched[:difference]
        return "not enough people" if found.nil? || matched[:pairs] < Beside::ENOUGH
        return "no significant difference#{interval(found)}" if Beside.unclear?(found)

        "difference #{signed(found[:estimate])}#{interval(found)}#{unlike}"
      end

      # What speaks against it: they already parted before.
      def unlike
        then_apart = matched[:placebo].values_at(:pairs, :difference)
        return "" if then_apart.first < Beside::ENOUGH || Beside.unclear?(then_apart.last)

        "; but the groups already differed before day 0#{interval(then_apart.last)}, so this may not be an effect"
      end

      def caveats
        [*(DATE_CAVEAT if start.date?), *(ALIKE_IN if matched), *(CAVEAT unless start.date? && matched.nil?)]
      end

      def tables = [table, *(balance_table if matched)]

      def table
        own = side(@people)
        rows = [["Did it", @people.height, own[:mean_before], own[:mean_after], own[:difference]]]
        rows += matched_rows if matched
        Table.new("sides", "Average per person per day, before and after",
                  [["who", "Group", "text"], ["people", "People", "count"],
                   ["before", "Before", "mean"], ["after", "After", "mean"],
                   ["change", "Change", "mean"], ["low", "from", "mean"],
                   ["high", "to", "mean"]], rows.map { |row| side_row(*row) })
      end

      def matched_rows
        pairs = matched[:pairs]
        [["Did it, matched", pairs, *matched.values_at(:own_before, :own_after), nil],
         [start.date? ? "Similar people outside the audience" : "Similar people who had not", pairs,
          *matched.values_at(:mean_before, :mean_after), nil],
         ["Difference from matched people", pairs, nil, nil, matched[:difference]],
         ["Placebo test, #{English.counted(after + 1, "day")} earlier", matched[:placebo][:pairs], nil, nil,
          matched[:placebo][:difference]]]
      end

      def balance_table
        rows = matched[:balance].map { |row| Table.row(row.values_at(:label, :all, :at_risk, :before, :after)) }
        Table.new("balance", "Balance before day 0",
                  [["what", "Variable", "text"], ["all", "Those who did", "mean"], ["others", "Everyone else", "mean"],
                   ["before", "Standardised difference before matching", "mean"],
                   ["after", "Standardised difference after matching", "mean"]], rows)
      end

      def side_row(who, people, before, after, difference)
        Table.row([who, people, before, after, *(difference || {}).values_at(:estimate, :low, :high)])
      end

      def number(count) = English.number(count)

      def interval(found)
        found ? " (95% CI #{English.interval(signed(found[:low]), signed(found[:high]))})" : ""
      end

      def amount(value) = English.rate(value)

      def signed(value) = "#{"+" if value.positive?}#{amount(value)}"
    end
  end
end
