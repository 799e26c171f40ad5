# frozen_string_literal: true

module Estrel
  module Exports
    # One column of what is exported: what it takes, and what it is called there. Frozen.
    #
    # `take` is `identifier:KIND`, `attribute:NAME`, `address`, one of {FACTS}, or a figure computed of a person's
    # events of one type: `first` or `last` (when), `count`, or `sum` (of a property), in all time or the last days.
    class Column
      FACTS = %w[profile_type state reactivated inactive_days first_day last_day].freeze
      FIGURES = %w[first last count sum].freeze
      MAX_NAME = 255

      # @return [String]
      attr_reader :take, :as
      # @return [String, nil]
      attr_reader :event, :property
      # @return [Integer, nil] days looked back over; nil for all time
      attr_reader :days

      # @param json [Hash, String] `take`, and maybe `as`, `event`, `property`, `days`; or `take` alone
      # @return [Column]
      # @raise [Invalid]
      def self.parse(json)
        json = { "take" => json } if json.is_a?(String)
        raise Invalid, "a column must say what it takes, such as {\"take\": \"state\"}" unless json.is_a?(Hash)

        new(**json.slice("take", "as", "event", "property", "days").transform_keys(&:to_sym))
      end

      # @raise [Invalid]
      def initialize(take: nil, as: nil, event: nil, property: nil, days: nil)
        @take = take.to_s
        @event = event
        @property = property
        @days = days
        @as = as.to_s.strip.empty? ? default_name : as.to_s.strip
        check
        freeze
      end

      # @return [Boolean] whether it is computed of events
      def figure? = FIGURES.include?(take)

      # @return [Hash] plain JSON
      def to_h
        { "take" => take, "as" => as, "event" => event, "property" => property, "days" => days }.compact
      end

      private

      def default_name
        return take.sub(/\A(?:identifier|attribute):/, "") unless figure?

        [take, property, event, days && "#{days}_days"].compact.join("_")
      end

      def check
        raise Invalid, "the name of a column may have at most #{MAX_NAME} characters" if as.length > MAX_NAME
        raise Invalid, "the name of a column may not contain control characters" if as.match?(/[[:cntrl:]]/)
        return unless figure?

        raise Invalid, "choose the event type that this column is about" unless event.is_a?(String)
        raise Invalid, "choose the property to add up" if take == "sum" && !property.is_a?(String)
        return if days.nil? || (days.is_a?(Integer) && days.between?(1, Lifecycle::RuleSet::MAX_DAYS))

        raise Invalid, "the days of a column must be a whole number from 1 to #{Lifecycle::RuleSet::MAX_DAYS}"
      end
    end
  end
end
