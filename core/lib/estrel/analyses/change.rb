# frozen_string_literal: true

module Estrel
  module Analyses
    # Why a number moved from one period to another. People are told apart by everything that is known of them as the
    # period began: each attribute, their state, their profile type, the audiences asked about; where it is counted how
    # often something was done, visits by what they began with as well. Of each, the change is taken apart into what
    # comes of more people, of another mix of them, and of another behaviour, see {Decomposition}. Whatever is beyond
    # chance is said first. Counts add up over the parts.
    class Change < Analysis
      # Values of a split that are told apart.
      TOP = 6
      # Splits that are looked at, at most.
      MOST_SPLITS = 40
      # What attributes have to be for people to be told apart by their values.
      TOLD_APART = %w[text boolean].freeze

      def more?(found) = found.size < 2

      def doing(found) = found.empty? ? "Counting the values" : "Counting who did it"

      def partial(part, found)
        counting = Counting.new(self, part)
        found.empty? ? counting.values : counting.to_h(labels(found.first))
      end

      # In one order always, since what parts have answered is kept under what they were asked with.
      def settled(round, found)
        return round unless found.empty?

        round.map { |counts| counts.sort_by { |value, _| [value.nil? ? 1 : 0, value.to_s] }.to_h }
      end

      def answer(found)
        labels = labels(found.first)
        told = splits.each_index.filter_map do |at|
          Decomposition.new(self, at, labels[at], found.last[at]) if labels[at].size > 1
        end
        reasons = Reasons.new(told)
        total = Total.new(found.last.last)
        Answer.new(finding: Finding.new(self, total, reasons, told).to_s, picture: picture(total, reasons, told),
                   caveats: caveats(told), tables: Tables.new(self, reasons, told).all)
      end

      # @return [Audience::Selection]
      def selection = @selection ||= Metric.selection(question["of"], workspace.catalogue, "of")

      # @return [Boolean] whether it is counted how often something was done, rather than how many people did it
      def times? = question["measure"] == "times"

      # @return [Array<Lifecycle::Steps>] the earlier period and the later one
      # @raise [Invalid]
      def periods
        @periods ||= begin
          after = Lifecycle::Steps.covering(unit, day("at") || last_complete, workspace.as_of)
          after = Lifecycle::Steps.covering(unit, after.dates.first + 1, after.dates[1])
          [after.earlier(question["against"] || "previous"), after]
        end
      rescue Lifecycle::Steps::Invalid => e
        raise Invalid.at("at", e.message)
      end

      # @param period [Integer] 0 or 1
      # @return [Range<Date>]
      def days(period) = (periods[period].dates.first + 1)..periods[period].dates.last

      # @param period [Integer] 0 or 1
      # @return [Date] the day before it begins, at whose end it is looked at who people are
      def eve(period) = periods[period].dates.first

      # @return [Array<SplitByPeople, SplitByVisit>]
      def splits
        @splits ||= begin
          found = audiences.map { |audience| SplitByPeople.audience(audience) } + splits_by_people
          found += SplitByVisit.all(workspace.catalogue) if times?
          found.first(MOST_SPLITS)
        end
      end

      # @return [String] "ended a ride"
      def did
        phrases = Audience::Phrases.new(workspace.catalogue)
        phrases.selected(selection, "of").map { |part| part[:text] }.join(" ")
      end

      # @param counts [Array<Hash{String, nil => Integer}>] of each split
      # @return [Array<Array<Array>>] see {Lifecycle::Grouping.labels}
      def labels(counts)
        counts.map { |found| Lifecycle::Grouping.labels(found, found.except(nil).size == TOP + 1 ? TOP + 1 : TOP) }
      end

      private

      def unit = question["step"] || "week"

      # The first day of the last period that has ended.
      def last_complete
        ended = [workspace.as_of, workspace.today - 1].min
        start = Lifecycle::Steps.start_of(unit, ended + 1)
        Lifecycle::Steps.start_of(unit, start - 1)
      end

      def rests_on
        check
        [*super, periods.map(&:key), splits.map(&:key)]
      end

      def check
        oldest = workspace.ledger.oldest_day
        unless periods.last.periods(workspace.today).first[:complete]
          raise Invalid.at("at", "this period has not ended; choose a completed one")
        end
        return unless oldest && days(0).begin < oldest

        raise Invalid.at("at", "the previous period starts before the data does (#{English.date(oldest)})")
      end

      def splits_by_people
        catalogue = workspace.catalogue
        told = catalogue.attributes.each_value.select { |field| TOLD_APART.include?(field.type) }
        known = told.map { |field| { "attribute" => field.name } }
        known = [({ "state" => true } if workspace.rules), { "profile_type" => true }, *known].compact
        known.map { |json| SplitByPeople.of(json, catalogue) }
      end

      def picture(total, reasons, told)
        drawn = reasons.first(Reasons::SHOWN).map { |reason| reason.to_h(reasons.clear?(reason)) }
        size = told.first ? told.first.size : 0
        { before: bounds(0), after: bounds(1), step: unit, measure: times? ? "times" : "people", total: total.to_h,
          parts: { size: size, rate: total.change - size }, reasons: drawn, splits: told.map(&:to_h),
          looked_at: reasons.size }
      end

      def bounds(period) = { from: days(period).begin, to: days(period).end }

      def caveats(told)
        found = ["Groups are as of the day before each period (profile type: as of today). Groups of fewer than " \
                 "#{Decomposition::FEWEST} people, or with half of the total or more, are not listed as drivers. " \
                 "Kitagawa decomposition; 95% CIs by jackknife over #{Counting::BLOCKS} blocks of people; " \
                 "significance corrected for multiple comparisons (Holm)."]
        found << "Splits by the first event of a visit apply to times only." unless times?
        left = splits.size - told.size
        found << "#{English.counted(left, "split")} with a single value are not shown." if left.positive?
        found
      end
    end
  end
end
