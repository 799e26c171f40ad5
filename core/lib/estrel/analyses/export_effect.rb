# frozen_string_literal: true

module Estrel
  module Analyses
    # Whether an export changed anything: those exported against the holdout, who were chosen by chance from the same
    # people, from the instant of the run to the end of some days after; of one run, or of all runs of an export with
    # each person from her first on, see {Exposed}. Or whether all marketing did: everybody known when a standing
    # holdout began, from that instant to its end. The estimators are those of {Comparison}.
    class ExportEffect < Analysis
      # The difference to be told where nothing else is said: of shares, and of means as a part of that of the holdout.
      SIZE = 0.02
      PART = 0.1
      # Groups within which the two are compared: the key of their table, what it is called, and of each group its name
      # and {Comparison}.
      Within = Struct.new(:key, :label, :groups) do
        # @return [Float, nil] how likely the differences are to differ so much by chance
        def differ
          Statistics::ChiSquare.heterogeneity(groups.filter_map do |_, told|
            told.difference && [told.difference[:estimate], told.spread]
          end)
        end
      end

      def partial(part, _found)
        people = exposed_in(part)
        { people: people, outcomes: outcomes.map { |outcome| outcome.of(part, people) },
          reached: standing ? reached(part, people) : nil }.compact
      end

      def answer((found))
        @result = Result.new(exposed, outcomes, found, days, last_over)
        Answer.new(finding: finding, picture: picture, tables: tables, caveats: caveats)
      end

      private

      def rests_on = [plan?, exposed.key, outcomes.map(&:key), days, split&.key]

      def plan? = !question["export"].nil?

      # @return [Stored::StandingHoldout, nil]
      def standing
        @standing ||= question["standing"] && workspace.stored.standing_holdout(question["standing"])
      end

      def words
        return Words::STANDING if standing

        plan? ? Words::PLAN : Words::RUN
      end

      # Whether anything can be looked at yet.
      def begun? = exposed.runs.any? && @result.begun?

      def tables = begun? ? Tables.new(@result, words, plan: plan?, within: within).all : []

      # It is of the whole, and travels with the question.
      def exposed = @exposed ||= Exposed.new(runs, workspace.ledger.calendar)

      def runs
        unless question.values_at("run", "export", "standing").compact.one?
          raise Invalid.at("run", "choose a run, an export or a global holdout")
        end

        stored = workspace.stored
        return [standing.run(workspace.ledger)] if standing

        plan? ? stored.runs_of(question["export"]) : [stored.run(question["run"])]
      end

      def outcomes
        @outcomes ||= begin
          asked = { "metric" => question["metric"] }
          (question["also"] || []).each_with_index { |json, place| asked["also.#{place}"] = json }
          asked.map { |place, json| Outcome.parse(json, days, workspace, place) }.uniq(&:key)
        end
      end

      def days = @days ||= question["days"] || (standing ? standing.days : 14)

      def last_over = Calendar.number(workspace.as_of) - (workspace.ended? ? 0 : 1)

      def exposed_in(part)
        rows = exposed.rows
        own = rows.filter(rows["profile_id"].is_in(part.ids)).sort(%w[profile_id run])
        own.hstack(Standing.new(part, split, states: outcomes.any?(&:states?)).of(own))
      end

      # Who received a message in these days all the same.
      def reached(part, people)
        type = workspace.catalogue.messaging.event("received")
        known = workspace.catalogue.event_types.key?(type)
        return people.head(0).select(["held"]) unless known && people.height.positive?

        day = Calendar.number(standing.from)
        received = part.events(type).filter(Polars.col("day").is_between(day, day + days))
        people.join(received.select(["profile_id"]), on: "profile_id", how: "semi").select(["held"])
      end

      def channels = @channels ||= exposed.runs.map(&:channel)

      def within
        @within ||= begun? && @result.over? ? [by_channel, by_value].compact : []
      end

      def by_channel
        return unless channels.uniq.size > 1

        places = exposed.runs.each_index.group_by { |place| channels[place] }
        groups = places.filter_map do |channel, of|
          told = @result.of_runs(of)
          [channel ? English.channel(channel) : "no channel", told] if told.told?
        end
        Within.new("channels", "By channel", groups)
      end

      def by_value
        return unless split

        groups = @result.within("value").map { |value, told| [value.nil? ? "not set" : split.said(value), told] }
        Within.new("values", "By group on the day before #{words.parted}", groups)
      end

      def comparison = @result.comparison

      def picture
        { plan: plan?, outcome: outcomes.first.to_s, share: outcomes.first.share?, from: date(@result.from),
          to: date(@result.to), complete: @result.complete?, young: @result.young,
          groups: begun? ? groups : [],
          **verdict, cut: begun? ? comparison.cut : nil, known_before: outcomes.first.known_before,
          needed: needed, size: size, curve: begun? ? @result.curve : [],
          within: within.map { |one| parted(one) } }
      end

      def groups
        comparison.groups.zip(comparison.did).map { |group, did| { people: group.people, some: did, mean: group.mean } }
      end

      # Nothing of it before there is a verdict.
      def verdict
        over = begun? && @result.over?
        %i[difference relative p_value total adjusted].to_h { |name| [name, over ? comparison.public_send(name) : nil] }
      end

      def parted(one)
        groups = one.groups.map { |name, told| { name: name, difference: told.difference } }
        { key: one.key, label: one.label, groups: groups, differ: one.differ }
      end

      def date(number) = number && Calendar.date(number)

      def size = question["size"] || (outcomes.first.share? ? SIZE : PART)

      # How many people in all, in the proportion of this run, it takes to tell a difference of a size.
      def needed
        return unless begun? && comparison.told?

        exported, holdout = comparison.groups
        times = exported.people.fdiv(holdout.people)
        return shares_needed(holdout.mean, times) if outcomes.first.share?

        difference = size * holdout.mean
        return if difference.zero?

        Statistics::SampleSize.of_means(holdout.variance, exported.variance, difference, times)
      end

      def shares_needed(share, times)
        other = share + size
        Statistics::SampleSize.of_shares(share, other, times) unless other >= 1 || share + other <= 0
      end

      def finding
        Finding.new(@result, words, plan: plan?, better: question["better"], size: size, needed: needed).to_s
      end

      def caveats = [differing, switched, merged, without, message, overlapping, messaged, later].compact

      def differing
        return if within.none?

        said = within.map do |one|
          p_value = one.differ
          clear = p_value && p_value <= 0.05
          "#{one.label}: #{clear ? "a significant" : "no significant"} difference in effect between groups" \
            "#{" (p = #{format("%.3f", p_value)})" if p_value}."
        end
        "#{said.join(" ")} With many groups, some stand out by chance. Confirm a promising group with a new export."
      end

      def switched
        count = exposed.switched
        return unless count.positive?

        "#{English.people(count)} #{count == 1 ? "was" : "were"} exported by one run and held out by another; " \
          "their first assignment counts."
      end

      def merged
        count = exposed.merged
        return unless count.positive?

        "#{English.people(count)} #{count == 1 ? "was" : "were"} merged into another profile since and " \
          "#{count == 1 ? "counts" : "count"} as that profile."
      end

      def without
        count = exposed.without
        return unless count.positive? && exposed.runs.any?

        "#{English.counted(count, "run")} without a holdout #{count == 1 ? "is" : "are"} not counted."
      end

      def message
        return unless outcomes.first.message?(workspace.catalogue)

        "The outcome is a message event, so exported people have it by design."
      end

      def overlapping
        return unless plan? && exposed.runs.size > 1

        "People can be in several runs, so rows do not add up."
      end

      # Nothing keeps others from messaging the holdout.
      def messaged
        return unless standing && begun?

        held, others = [true, false].map do |held|
          all = @result.people.filter(Polars.col("held") == held).height
          English.percent(@result.reached.filter(Polars.col("held") == held).height.fdiv([all, 1].max))
        end
        "#{held} of the holdout still received a message in this period (others: #{others}). " \
          "Estrel excludes the holdout; other messaging tools must exclude it too."
      end

      def later
        "Only people known before #{English.date(standing.from)} are compared." if standing
      end
    end
  end
end
