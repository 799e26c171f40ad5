# frozen_string_literal: true

module Estrel
  class Lifecycle
    # Which events count as a sign of life, and the three day counts that separate the states. Frozen.
    class RuleSet
      # Raised when the numbers or the activity make no sense.
      class Invalid < Estrel::Invalid; end

      MAX_DAYS = 3650

      # Whom a rule set is about: the members of an audience, by its number and name, as its definition finds them.
      Population = Struct.new(:id, :name, :definition, keyword_init: true)

      # @return [Array<Hash>] what counts as a sign of life: `event`, the name of a type, and `where`, conditions on its
      #   properties as in an audience definition
      attr_reader :activity
      # @return [Integer] days a person stays new after the first activity
      attr_reader :new_for
      # @return [Integer] inactive days from which a person is dormant
      attr_reader :active_within
      # @return [Integer] inactive days from which a person is churned
      attr_reader :churned_after
      # @return [Population, nil] nil for everybody
      attr_reader :population
      # @return [String, nil] one of {Reach::CHANNELS}: only who can be reached by it; nil for everybody
      attr_reader :channel

      # @param activity [Array<String, Hash>] names of event types, or `{"event" => name, "where" => [...]}`
      # @param new_for [Integer] days
      # @param active_within [Integer] days
      # @param churned_after [Integer] days
      # @param population [Population, nil]
      # @param channel [String, nil]
      # @raise [Invalid]
      def initialize(activity:, new_for:, active_within:, churned_after:, population: nil, channel: nil)
        @activity = signs(activity)
        @new_for = new_for
        @active_within = active_within
        @churned_after = churned_after
        @population = population
        @channel = channel
        validate
        freeze
      end

      # The same rule set with some of it changed.
      #
      # @param changes [Hash] as in {#initialize}
      # @return [RuleSet]
      # @raise [Invalid]
      def with(**changes)
        RuleSet.new(activity: activity, new_for: new_for, active_within: active_within, churned_after: churned_after,
                    population: population, channel: channel, **changes)
      end

      # @return [Array<String>] names of the event types that count, in whole or in part
      def event_types = activity.map { |sign| sign["event"] }.uniq

      # @return [Boolean] whether the rule set is about some people only
      def limited? = !population.nil? || !channel.nil?

      # @param state [String] of {STATES}
      # @return [String] what it means under these rules, in words
      def meaning(state)
        case state
        when "new" then "first active less than #{English.counted(new_for, "day")} ago"
        when "active" then "active within the last #{English.counted(active_within, "day")}"
        when "dormant" then "inactive for #{active_within} to #{English.counted(churned_after - 1, "day")}"
        when "churned" then "inactive for #{English.counted(churned_after, "day")} or more"
        else "known, but no activity yet"
        end
      end

      # @return [Object] names completely what counts
      def activity_key = activity

      # @return [Object] names completely whom it is about
      def people_key = [population&.definition&.root&.key, channel]

      # @return [Array] names the rule set completely, for use as a cache key
      def key = [activity, new_for, active_within, churned_after, people_key]

      # The event types of a catalogue that count, each with the conditions its events must meet. Types that are not in
      # it, or are marked there as no activity, do not count. Rules are everybody's: read with the whole catalogue, also
      # for whoever may not ask about all that is in it.
      #
      # @param catalogue [Catalogue]
      # @return [Array<Array(Catalogue::EventType, Audience::FilterGroup)>] the conditions are nil where all count
      # @raise [Invalid] where a condition does not fit its event type
      def activity_in(catalogue) = counting(catalogue.whole)

      # @param catalogue [Catalogue] of what whoever writes the rules may ask about
      # @return [void]
      # @raise [Invalid] for an event type there is not, and for conditions that do not fit
      def check(catalogue)
        errors = activity.each_with_index.filter_map do |sign, index|
          next if catalogue.event_type(sign["event"])

          { place: "activity[#{index}]",
            message: "there is no event type \"#{sign["event"]}\"#{Catalogue.suggestion(sign["event"],
                                                                                        catalogue.event_types.keys)}" }
        end
        raise Invalid, errors if errors.any?

        counting(catalogue)
      end

      # @param catalogue [Catalogue] of what somebody may ask about
      # @return [Boolean] whether the conditions on its events rest on that alone, so that they may be told
      def told_by?(catalogue)
        counting(catalogue)
        true
      rescue Invalid
        false
      end

      # @return [Hash] plain JSON
      def to_h
        { "activity" => activity.map { |sign| sign["where"].empty? ? sign["event"] : sign }, "new_for" => new_for,
          "active_within" => active_within, "churned_after" => churned_after, "population" => population&.id,
          "channel" => channel }
      end

      private

      def counting(catalogue)
        found = activity.each_with_index.filter_map do |sign, index|
          type = catalogue.event_type(sign["event"])
          type && !type.not_activity && [type, conditions(sign, catalogue, index)]
        end
        # A type that counts in whole needs no conditions beside.
        whole = found.select { |_, where| where.nil? }.map(&:first)
        found.reject { |type, where| where && whole.include?(type) }.uniq
      end

      def signs(activity)
        rows = activity.is_a?(Array) ? activity : []
        rows = rows.map do |sign|
          sign = { "event" => sign } unless sign.is_a?(Hash)
          { "event" => sign["event"].to_s, "where" => sign["where"] || [] }
        end
        rows.uniq.sort_by { |sign| [sign["event"], JSON.generate(sign["where"])] }.freeze
      end

      def conditions(sign, catalogue, index)
        return if sign["where"] == []

        where = Audience::Selection.parse(sign, catalogue).where
        return where if where.beside.empty?

        message = "activity can be filtered by event properties only"
        raise Invalid, [{ place: "activity[#{index}].where", message: message }]
      rescue Audience::Invalid => e
        raise(Invalid, e.errors.map do |error|
          { place: "activity[#{index}].#{error[:place]}", message: error[:message] }
        end)
      end

      def validate
        errors = %w[new_for active_within churned_after].filter_map do |place|
          day_count_error(place, public_send(place))
        end
        if activity.empty?
          errors << { place: "activity", message: "choose at least one event type that counts as " \
                                                  "activity" }
        end
        unless channel.nil? || Reach::CHANNELS.include?(channel)
          errors << { place: "channel", message: "the channel must be one of #{Reach::CHANNELS.join(", ")}" }
        end
        if errors.empty? && active_within >= churned_after
          errors << { place: "churned_after",
                      message: "churned must start later than dormant: enter more than #{active_within} days" }
        end
        raise Invalid, errors if errors.any?
      end

      def day_count_error(place, value)
        return if value.is_a?(Integer) && value.between?(1, MAX_DAYS)

        wrong = "must be a whole number of days from 1 to #{MAX_DAYS}, not #{value.inspect}"
        { place: place, message: "#{English.field(place)} #{wrong}" }
      end
    end
  end
end
