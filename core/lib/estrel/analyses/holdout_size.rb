# frozen_string_literal: true

module Estrel
  module Analyses
    # What a holdout can show before anything is sent: how small a difference, for so many people in a run, and how many
    # people and runs a difference that matters takes. It goes by what came of the same audience in the last days that
    # are over, when nobody was sent this. Of no audience, it is about holding a share of everybody back.
    class HoldoutSize < Analysis
      # Of fewer people it is not known what comes of them.
      ENOUGH = ExportEffect::Result::ENOUGH
      # How often a plan runs, in words.
      EVERY = { "day" => "days", "week" => "weeks", "month" => "months" }.freeze
      private_constant :EVERY

      def partial(part, _found)
        rows = members(part)
        people = rows.hstack(ExportEffect::Standing.new(part, nil, states: outcome.states?).of(rows))
        told = outcome.about(people)
        sums = outcome.of(part, told)[:after].group_by("profile_id").agg([Polars.col("value").sum])
        { members: rows.height,
          told: told.select(["profile_id"]).join(sums, on: "profile_id", how: "left").fill_null(0.0) }
      end

      def answer((found))
        values = found[:told].sort("profile_id")["value"]
        @members = found[:members]
        @about = @members.zero? ? 0.0 : values.len.fdiv(@members)
        cut = Statistics::SkewedMeans.cut([values]) if outcome.cut?
        @usual = Statistics::SkewedMeans.of(cut ? values.clip(-cut, cut) : values)
        Answer.new(finding: finding, picture: picture)
      end

      private

      def rests_on = [definition.root.key, outcome.key]

      # @return [Stored::NamedAudience, nil]
      def audience = @audience ||= question["audience"] && workspace.stored.audience(question["audience"])

      def definition
        everybody = { "all" => [] }
        @definition ||= audience&.definition || Audience::Definition.parse(everybody, catalogue: workspace.catalogue)
      end

      def outcome = @outcome ||= ExportEffect::Outcome.parse(question["metric"], days, workspace)

      def days = question["days"] || 14

      # The first day of the last ones that are over.
      def from = workspace.as_of - (workspace.ended? ? 0 : 1) - days

      # The members on the day before, as if they had been exported as it ended.
      def members(part)
        evaluator = part.at(from - 1)
        ids = evaluator.members(definition).alias("profile_id")
        fixed = { "run" => [0, Polars::Int32], "day" => [Calendar.number(from), Polars::Int32],
                  "at" => [part.calendar.start_of(from), Polars::Int64] }
        ids.to_frame.with_columns(fixed.map { |name, (value, type)| Polars.lit(value).cast(type).alias(name) })
           .sort("profile_id")
      end

      def people = question["people"] || @members

      # How many of them the outcome is about: of coming back, as many as were dormant or churned then.
      def counted = (people * @about).round

      def share = question["share"]

      def size = question["size"] || (outcome.share? ? ExportEffect::SIZE : ExportEffect::PART)

      def known? = @usual[:people] >= ENOUGH && @usual[:some].positive? && share.between?(1e-6, 1 - 1e-6)

      # People it is about to tell a difference of a size, of shares in points, of means as a part of the mean.
      def needed(size, share = self.share)
        times = (1 - share) / share
        mean, variance = @usual.values_at(:mean, :variance)
        return Statistics::SampleSize.of_means(variance, variance, size * mean, times) unless outcome.share?

        # Up, or where there is no room down.
        other = mean + size < 1 ? mean + size : mean - size
        Statistics::SampleSize.of_shares(mean, other, times) if other.positive?
      end

      # The smallest difference that one run of so many people can tell; nil where none can be.
      def smallest
        return unless known? && counted.positive?

        sizes = [0.0, outcome.share? ? [@usual[:mean], 1 - @usual[:mean]].max : 10.0]
        return unless enough?(sizes.last * 0.999)

        40.times { sizes[enough?(sizes.sum / 2) ? 1 : 0] = sizes.sum / 2 }
        sizes.last
      end

      def enough?(size) = size.positive? && (count = needed(size)) && count <= counted

      def runs
        count = in_all if known? && people.positive?
        count&.fdiv(people)&.ceil
      end

      # People to be exported or held back for a difference of the size that matters.
      def in_all = needed(size)&.fdiv(@about)&.ceil

      def picture
        { usual: @usual.slice(:people, :some, :mean), share: outcome.share?, from: from, days: days,
          smallest: smallest, needed: known? ? in_all : nil, size: size, runs: runs }
      end

      def finding
        return "Without a holdout, the effect cannot be measured." if share.zero?
        return "No one would be exported, so the effect cannot be measured." if share >= 1
        return unknown unless known?

        "#{usual} #{shows} #{takes}"
      end

      def unknown
        if @usual[:people] < ENOUGH
          return "Not enough data to size the holdout: only #{English.people(@usual[:people])} (#{whom})."
        end

        "Not enough data to size the holdout: none of #{English.number(@usual[:people])} people (#{whom}) #{outcome}."
      end

      def whom
        which = outcome.lapsed? ? ", dormant or churned" : ""
        "#{audience ? "in #{English.quoted(audience.name)}" : "known"} on #{English.date(from - 1)}#{which}"
      end

      def usual
        number = English.number(@usual[:people])
        baseline = if outcome.share? then "#{English.precise(@usual[:mean])} #{outcome}"
                   else "#{outcome} #{format("%.2f", @usual[:mean])}"
                   end
        "Baseline: #{baseline} within #{English.counted(days, "day")} (#{number} people #{whom})."
      end

      def shows
        about = ", of whom about #{English.number(counted)} would be dormant or churned," if outcome.lapsed?
        held = "A holdout of #{English.percent(share)} of #{English.people(people)}#{about}"
        return "#{held} is too small to detect any effect." unless smallest

        "#{held} detects a difference of #{told(smallest)} or more."
      end

      def takes
        count = in_all or return ""
        return held_back(count) unless audience
        return "That is enough to detect #{told(size)}." if count <= people

        "Detecting #{told(size)} takes about #{English.number(count)} people#{how_long} (80% power, 5% significance)."
      end

      # Everybody is all there are, so it is the share that has to be larger.
      def held_back(count)
        return "That is enough to detect #{told(size)}." if count <= people
        return "Not enough people to detect #{told(size)} (80% power, 5% significance)." unless enough_by?(0.5)

        shares = [share, 0.5]
        20.times { shares[enough_by?(shares.sum / 2) ? 1 : 0] = shares.sum / 2 }
        "Detecting #{told(size)} takes a holdout of #{English.percent(shares.last)} (80% power, 5% significance)."
      end

      def enough_by?(share) = (count = needed(size, share)) && count <= counted

      def how_long
        return "" unless runs

        unit = EVERY[question["every"]]
        ", #{English.counted(runs, "run")} of this size#{", #{runs} #{unit}" if unit}"
      end

      def told(size)
        return "#{format("%.0f", size * 100)}% of the control mean" unless outcome.share?

        "#{English.points(size).delete_prefix("+")} pp"
      end
    end
  end
end
