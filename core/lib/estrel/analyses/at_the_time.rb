# frozen_string_literal: true

module Estrel
  module Analyses
    # Tells people apart by what their attributes were when something happened, rather than by what they are on the
    # as-of date: where the record of an attribute reaches back to the first day looked at, and unless the question asks
    # for the as-of date's. Everything else that people are told apart by is as of that date. For analyses {OfEvents}
    # that look at more than one time; they say `first_looked_at`, a date.
    module AtTheTime
      # @return [EventGroups]
      def groups = @groups ||= EventGroups.new(audiences, moving || split, top, people: (staying if moving))

      # @param group [Hash{Symbol => Object}] see {EventGroups#named}
      # @yieldparam where [Array<Hash>] filters, as JSON, of what its people did
      # @yieldreturn [Array<Hash>] conditions, as JSON
      # @return [Hash] the condition of its people for whom these hold
      def people_of(group)
        each = (group[:pairs] || [group.values_at(:people_in, :where)]).map do |people, where|
          all = [(people unless people == { "all" => [] }), *yield(where || [])].compact
          all.one? ? all.first : { "all" => all }
        end
        each.one? ? each.first : { "any" => each }
      end

      private

      def rests_on = [*super, moving&.key]

      # What events are told apart by: properties of their own, and attributes as they were.
      def moving
        return @moving if defined?(@moving)

        attributes = moved.flat_map(&:attributes)
        found = [*of_events, *attributes.map { |name| Audience::AttributeSplit.new(name, workspace.catalogue) }]
        @moving = found.size > 1 ? Audience::PairedEventSplit.new(found) : found.first
      end

      # What is asked about the events themselves.
      def of_events = []

      # Of what people are told apart by, what is looked at when something happened; and what is not.
      def moved = told_parts.first

      def staying = told_parts.last.first

      def told_parts = @told_parts ||= (split ? split.parts : []).partition { |one| one.at_the_time? && recorded?(one) }

      def recorded?(one)
        began = begun(one)
        began && began <= first_looked_at
      end

      def begun(one) = AttributeValues.new(workspace.ledger).begins(one.attributes.first)

      # @param happened [String] "at the time of the event"
      # @return [Array<String>] by which of their values people are split
      def told_by(happened)
        found = moved.map { |one| "Split by #{attribute(one)} #{happened}." }
        others = told_parts.last.select(&:changes?)
        late, others = others.partition { |one| one.at_the_time? && begun(one) }
        found += late.map do |one|
          "History of #{attribute(one)} starts on #{English.date(begun(one))}, after the start of this period, so " \
            "its value on #{English.date(workspace.as_of)} is used."
        end
        return found if others.empty?

        [*found, as_known(found.any? ? "Otherwise split" : "Split")]
      end

      def attribute(one) = English.quoted(workspace.catalogue.names.attribute(one.attributes.first))
    end
  end
end
