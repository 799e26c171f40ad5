# frozen_string_literal: true

module Estrel
  module Exports
    # One column of what is exported: what it takes, and what it is called there. Frozen.
    #
    # `take` is `identifier:KIND`, `attribute:NAME`, `address`, one of {FACTS}, a figure computed of a person's events
    # of one type: `first` or `last` (when), `count`, or `sum` (of a property), in all time or the last days; or a
    # `chance` to come back, or to lapse, within some days.
    class Column
      CHANCE = "chance"
      FACTS = %w[profile_type state reactivated inactive_days first_day last_day].freeze
      # What needs lifecycle rules.
      STATES = [*(FACTS - %w[profile_type]), CHANCE].freeze
      FIGURES = %w[first last count sum].freeze
      # Days within which a chance is told.
      WITHIN = (7..180)
      MAX_NAME = 255

      # @return [String]
      attr_reader :take, :as
      # @return [String, nil]
      attr_reader :event, :property
      # @return [Integer, nil] days looked back over, nil for all time; of a chance, days within which
      attr_reader :days
      # @return [String, nil] what the chance is of, of {Propensity::KINDS}
      attr_reader :of

      # @param json [Hash, String] `take`, and maybe `as`, `event`, `property`, `days`, `of`; or `take` alone
      # @return [Column]
      # @raise [Invalid]
      def self.parse(json)
        json = { "take" => json } if json.is_a?(String)
        raise Invalid, "a column must say what it takes, such as {\"take\": \"state\"}" unless json.is_a?(Hash)

        new(**json.slice("take", "as", "event", "property", "days", "of").transform_keys(&:to_sym))
      end

      # @raise [Invalid]
      def initialize(take: nil, as: nil, event: nil, property: nil, days: nil, of: nil)
        @take = take.to_s
        @of = of
        @event = event
        @property = property
        @days = days
        @as = as.to_s.strip.empty? ? default_name : as.to_s.strip
        check
        freeze
      end

      # @return [Boolean] whether it is computed of events
      def figure? = FIGURES.include?(take)

      # @return [Boolean] whether it is a chance
      def chance? = take == CHANCE

      # @return [Hash] plain JSON
      def to_h
        { "take" => take, "as" => as, "event" => event, "property" => property, "days" => days, "of" => of }.compact
      end

      private

      def default_name
        return "chance_to_#{of}_within_#{days}_days" if chance?
        return take.sub(/\A(?:identifier|attribute):/, "") unless figure?

        [take, property, event, days && "#{days}_days"].compact.join("_")
      end

      def check
        raise Invalid, "the name of a column may have at most #{MAX_NAME} characters" if as.length > MAX_NAME
        raise Invalid, "the name of a column may not contain control characters" if as.match?(/[[:cntrl:]]/)
        return check_chance if chance?
        return unless figure?

        raise Invalid, "choose the event type that this column is about" unless event.is_a?(String)
        raise Invalid, "choose the property to sum" if take == "sum" && !property.is_a?(String)
        return if days.nil? || (days.is_a?(Integer) && days.between?(1, Lifecycle::RuleSet::MAX_DAYS))

        raise Invalid, "the days of a column must be a whole number from 1 to #{Lifecycle::RuleSet::MAX_DAYS}"
      end

      def check_chance
        kinds = Propensity::KINDS
        raise Invalid, "choose what the probability is for: #{kinds.join(" or ")}" unless kinds.include?(of)
        return if days.is_a?(Integer) && WITHIN.cover?(days)

        raise Invalid, "probability: enter #{WITHIN.min} to #{WITHIN.max} days"
      end
    end
  end
end
