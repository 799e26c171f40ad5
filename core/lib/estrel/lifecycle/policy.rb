# frozen_string_literal: true

module Estrel
  class Lifecycle
    # Which events count as a sign of life, and the three day counts that separate the states. Frozen.
    class Policy
      # Raised when the numbers or the activity make no sense; `errors` is a list of place and message.
      class Invalid < Error
        # @return [Array<Hash{Symbol => String}>]
        attr_reader :errors

        def initialize(errors)
          @errors = errors.freeze
          super(errors.map { |error| "#{error[:place]}: #{error[:message]}" }.join("; "))
        end
      end

      MAX_DAYS = 3650

      # @return [Array<String>] event types that count
      attr_reader :activity
      # @return [Integer] days a person stays new after the first activity
      attr_reader :new_for
      # @return [Integer] quiet days from which a person is dormant
      attr_reader :active_within
      # @return [Integer] quiet days from which a person is churned
      attr_reader :churned_after

      # @param activity [Array<String>] names of event types
      # @param new_for [Integer] days
      # @param active_within [Integer] days
      # @param churned_after [Integer] days
      # @raise [Invalid]
      def initialize(activity:, new_for:, active_within:, churned_after:)
        @activity = activity.is_a?(Array) ? activity.map { |name| name.to_s.dup.freeze }.uniq.sort.freeze : [].freeze
        @new_for = new_for
        @active_within = active_within
        @churned_after = churned_after
        validate
        freeze
      end

      # @return [Array] names the policy completely, for use as a cache key
      def key = [activity, new_for, active_within, churned_after]

      # @return [Hash] plain JSON
      def to_h
        { "activity" => activity, "new_for" => new_for, "active_within" => active_within,
          "churned_after" => churned_after }
      end

      private

      def validate
        errors = %w[new_for active_within churned_after].filter_map do |place|
          day_count_error(place, public_send(place))
        end
        errors << { place: "activity", message: "choose at least one event type that counts" } if activity.empty?
        if errors.empty? && active_within >= churned_after
          errors << { place: "churned_after",
                      message: "must be greater than active_within (#{active_within}), or nobody could be dormant" }
        end
        raise Invalid, errors if errors.any?
      end

      def day_count_error(place, value)
        return if value.is_a?(Integer) && value.between?(1, MAX_DAYS)

        { place: place, message: "must be a whole number of days from 1 to #{MAX_DAYS}, not #{value.inspect}" }
      end
    end
  end
end
