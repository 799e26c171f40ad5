# frozen_string_literal: true

module Estrel
  module Analyses
    # Whether an export changed anything: those exported against the holdout, who were chosen by chance from the same
    # people, over some days after the run. There is no verdict before these are over: whoever looks every day finds a
    # difference sooner or later. Nor is there one where the holdout is not of the size that was planned: then the two
    # were not parted by chance alone. Hits and people add up over the parts; means and variances of a sum are put
    # together as {Moments}. The estimators are those of {Statistics}.
    class ExportEffect < Analysis
      # What came of one group: how many people, how many of them it came of (or nil), and the mean per person.
      Group = Struct.new(:people, :hits, :mean, :variance, keyword_init: true)
      # The difference to be told where nothing else is said: of shares, and of means as a part of that of the holdout.
      SIZE = 0.02
      PART = 0.1
      # So unlikely a split is no chance (R. Kohavi, D. Tang and Y. Xu, Trustworthy Online Controlled Experiments, 2020,
      # chapter 21).
      AMISS = 0.001

      def partial(part, _found)
        sides.map do |ids|
          mine = ids.filter(ids.is_in(part.ids))
          share? ? hits(mine, part) : Moments.of(sums(mine, part))
        end
      end

      def answer((found))
        @groups = found.map { |side| share? ? share(side) : mean(side) }
        Answer.new(finding: finding, picture: picture, tables: [table], caveats: [])
      end

      private

      def rests_on = [run.as_of, run.planned, metric&.key]

      def run
        @run ||= workspace.stored.run(question["run"]).tap do |found|
          next if found.as_of <= workspace.as_of

          raise Invalid.at("as_of", "this run was made as of #{English.date(found.as_of)}; look at a later date")
        end
      end

      # What is measured of their events; nil where it is who came back.
      def metric
        return if question["metric"].nil?

        @metric ||= Metric.parse({ "measure" => "people", **question["metric"] }, workspace.catalogue)
      end

      def share? = metric.nil? || metric.share?

      def outcome
        return "came back" if metric.nil?

        share? ? metric.to_s : "#{metric} per person"
      end

      def days = question["days"] || 14

      # Those exported, and the holdout.
      def sides = [run.exported, run.holdout]

      # The last day that counts.
      def to = run.as_of + days

      def complete? = to <= workspace.as_of

      def last = [to, workspace.as_of].min

      # People looked at and, of them, those it came of.
      def hits(ids, part)
        return [ids.len, ids.is_in(values(part)["profile_id"]).sum.to_i] if metric

        # Only those who were dormant or churned then, and any activity since.
        ids = ids.filter(ids.is_in(lapsed(part)))
        [ids.len, ids.is_in(active(part)).sum.to_i]
      end

      def lapsed(part)
        part.ids.filter(part.states(run.as_of)["state"].is_in(%w[dormant churned]).fill_null(false))
      end

      def active(part)
        inside = Polars.col("day").is_between(*bounds)
        Polars.concat(part.lifecycle.activity_rows.map { |rows| rows.filter(inside)["profile_id"].unique })
      end

      def values(part) = metric.values(part, *bounds)

      # The first day that counts, and the last one so far.
      def bounds = [run.as_of + 1, last].map { |date| Calendar.number(date) }

      # What each person has of it; nothing where there is no such event.
      def sums(ids, part)
        sums = values(part).lazy.group_by("profile_id").agg([Polars.col("value").sum.cast(Polars::Float64)]).collect
        ids.alias("profile_id").to_frame.join(sums, on: "profile_id", how: "left")["value"].fill_null(0.0)
      end

      def share((people, hits))
        Group.new(people: people, hits: hits, mean: people.zero? ? nil : hits.fdiv(people))
      end

      def mean(moments)
        Group.new(people: moments.size, mean: moments.mean, variance: moments.variance)
      end

      def picture
        { outcome: outcome, share: share?, from: run.as_of + 1, to: to, complete: complete?,
          groups: @groups.map(&:to_h), difference: difference, relative: relative, p_value: p_value,
          needed: needed(size), size: size }
      end

      def size = question["size"] || (share? ? SIZE : PART)

      # Whether there are people to compare.
      def told? = @groups.all? { |group| group.people > (share? ? 0 : 1) }

      def counts = @groups.flat_map { |group| [group.hits, group.people] }

      # Whether something can be said of them.
      def over? = complete? && told? && !amiss?

      # Whether the split departs from what was planned by more than chance: Pearson's χ² with one degree of freedom,
      # which is the square of this z.
      def amiss?
        planned = run.planned
        return false unless planned&.between?(1e-9, 1 - 1e-9)

        held, all = people
        Statistics::Normal.two_sided((held - (all * planned)) / Math.sqrt(all * planned * (1 - planned))) < AMISS
      end

      # How many are in the holdout, and how many there are in all.
      def people = [run.holdout.len, run.holdout.len + run.exported.len]

      def difference
        return unless over?
        return Statistics::Shares.difference(*counts) if share?

        Statistics::Means.welch(*@groups.map(&:to_h)).slice(:estimate, :low, :high)
      end

      def relative
        return unless over?
        return Statistics::Shares.ratio(*counts)&.transform_values { |value| value - 1 } if share?

        other = @groups.last.mean
        other.zero? ? nil : difference.transform_values { |value| value / other }
      end

      def p_value
        return unless over?

        share? ? Statistics::Shares.p_value(*counts) : Statistics::Means.welch(*@groups.map(&:to_h))[:p_value]
      end

      # How many people in all, in the proportion of this run, it takes to tell a difference of a size.
      def needed(size)
        return unless told?

        exported, holdout = @groups
        times = exported.people.fdiv(holdout.people)
        return shares_needed(holdout.mean, size, times) if share?

        difference = size * holdout.mean
        return if difference.zero?

        Statistics::SampleSize.of_means(holdout.variance, exported.variance, difference, times)
      end

      def shares_needed(share, size, times)
        other = share + size
        Statistics::SampleSize.of_shares(share, other, times) unless other >= 1 || share + other <= 0
      end

      def finding
        return "Nobody is in the holdout to measure against." if run.holdout.len.zero?
        return "Nobody in the holdout was dormant or churned, so nobody could come back." if @groups.last.people.zero?
        return "There are too few people to compare." unless told?
        return "No verdict: #{split}" if amiss?
        return "No verdict before the end of #{English.date(to)}. Until then: #{figures}." unless complete?

        apart = difference
        return "Cannot tell: #{said}#{more}" if 0.between?(apart[:low], apart[:high])

        "#{apart[:estimate].positive? ? "Higher" : "Lower"} than in the control group: #{said}"
      end

      def split
        held, all = people
        "#{English.precise(held.fdiv(all))} of the people are in the holdout, #{English.precise(run.planned)} were " \
          "meant to be, and that is not chance. Either the holdout was changed after people had been exported, or " \
          "one of the two groups was left out of this run more often than the other: #{figures}."
      end

      def said
        low, high = difference.values_at(:low, :high).map { |value| share? ? points(value) : gained(value) }
        "#{figures} (difference #{English.interval(low, high)}, 95% interval)."
      end

      def figures
        here, there = @groups.map { |group| share? ? English.precise(group.mean) : amount(group.mean) }
        return "#{here} of those exported #{outcome}, #{there} of the holdout" if share?

        "the #{outcome} was #{here} among those exported, #{there} among the holdout"
      end

      def more
        found = needed(size) or return ""
        what = share? ? points(size).delete_prefix("+") : "#{format("%g", size * 100)}%"
        missing = found - @groups.sum(&:people)
        " To tell a difference of #{what} takes about #{English.number(found)} people in all, in the same proportion" \
          "#{", #{English.number(missing)} more than here" if missing.positive?} (power 80%, two-sided level 5%)."
      end

      # With the sign as it is printed.
      def signed(text) = text.sub("-", "−")

      def points(value) = "#{English.points(value)} points"

      def gained(value) = "#{"+" if value.positive?}#{amount(value)}"

      def amount(value) = signed(format("%.2f", value))

      def table
        rows = ["Exported", "Holdout"].zip(@groups).map do |name, group|
          Table.row([name, group.people, *(group.hits if share?), group.mean, complete?])
        end
        Table.new("groups", "Exported and holdout, #{English.date(run.as_of + 1)} to #{English.date(to)}",
                  [["group", "Group", "text"], ["people", "People", "count"],
                   *([["hits", "Did", "count"]] if share?),
                   share? ? ["share", "Share", "share"] : ["mean", "Mean", "mean"],
                   ["complete", "Complete", "flag"]], rows)
      end
    end
  end
end
