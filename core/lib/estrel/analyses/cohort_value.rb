# frozen_string_literal: true

module Estrel
  module Analyses
    # What people who began with something have brought in since: a property's total, how often they did something, or
    # how many of them did it, per person of their cohort, period by period or so far; and after how long that has paid
    # what it cost to win them: one figure for everybody, or the mean of an attribute over those who have it.
    # What was brought in at the start itself counts. Counts add up over the parts.
    class CohortValue < Analysis
      include OfEvents
      include AtTheTime
      include Cohorted

      # Lines beside each other, at most.
      MOST_LINES = 8
      # Periods that a curve is carried on into, and those its continuation rests on.
      AHEAD = 6
      BEHIND = 6

      def partial(part, found)
        counting = Counting.new(self, part)
        counting?(found) ? counting.values : counting.to_h(labels(found))
      end

      def answer(found)
        lines = groups.named(labels(found)).each_with_index.map { |group, at| Line.new(self, found.last, group, at) }
        Answer.new(finding: Finding.new(self, lines).to_s, picture: picture(lines),
                   caveats: [*caveats(lines), *unpriced(lines)], tables: Tables.new(self, lines).all)
      end

      # @return [Metric] what is brought in
      def metric
        @metric ||= Metric.parse({ "measure" => "sum", **question["value"] }, workspace.catalogue, "value")
      end

      # @return [Integer, Float, nil] what winning a person has cost, where it is one figure
      def cost = question["cost"]

      # @return [String, nil] the attribute that says what it has cost
      def cost_of = question["cost_of"]

      # @return [Boolean] whether what it has cost is known
      def costs? = !(cost || cost_of).nil?

      # @param cohort [Integer]
      # @param period [Integer] after the start's
      # @return [Boolean] whether it has ended
      def complete?(cohort, period) = periods[cohort + period]&.fetch(:complete) == true

      # @param period [Integer]
      # @return [String] "month 3"
      def said(period) = "#{steps.unit} #{period}"

      # @param value [Numeric]
      # @return [String] with its unit
      def told(value) = field ? English.quantity(value, field.quantity, field.unit) : English.rate(value)

      # @return [Catalogue::Field, nil] the property that is added up
      def field
        metric.property && workspace.catalogue.names.property_field(metric.property, metric.selection.events)
      end

      private

      def rests_on
        check
        [*super, steps.key, metric.key, cost, cost_of]
      end

      def check
        [start, metric, steps]
        raise Invalid.at("cost", "the cost must be greater than 0") if cost && !cost.positive?
        raise Invalid.at("cost_of", "enter the cost as a number or an attribute, not both") if cost && cost_of
        unless cost_of.nil? || workspace.catalogue.attributes[cost_of]&.type == "number"
          raise Invalid.at("cost_of", "there is no attribute #{cost_of.inspect} that is a number")
        end

        check_lines
      end

      def picture(lines)
        { step: steps.unit, start: start_words, value: metric.to_s, unit: field&.unit, quantity: field&.quantity,
          cohorts: periods.map { |period| period.slice(:from, :to, :complete) },
          periods: (0...(cohorts + AHEAD)).map { |period| said(period) }, rows: lines.map(&:to_h) }
      end

      def unpriced(lines)
        count = lines.sum(&:unpriced)
        return [] if count.zero?

        ["Acquisition cost is unknown for #{English.people(count)}; the mean of the others is used."]
      end

      def caveats(lines)
        found = [*data_begins]
        if lines.any? { |line| line.projection.any? }
          found << "The projection is an extrapolation: value per period keeps falling as in the last #{BEHIND} " \
                   "periods (log-linear fit), or stays flat."
        end
        found << "People in several audiences count in each." if audiences.size > 1 && !split
        found + told_by("at the start event")
      end
    end
  end
end
