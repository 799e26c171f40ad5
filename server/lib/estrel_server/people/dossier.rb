# frozen_string_literal: true

module EstrelServer
  class People
    # Everything that is stored about one person, for handing it to that person on request.
    class Dossier
      # @param profile [Profile]
      def initialize(profile)
        @profile = profile
      end

      # @return [Hash] plain JSON
      def to_h
        { identifiers: identifiers, attributes: attributes, consents: consents, events: events,
          **People::Origins.new(@profile).to_h }
      end

      private

      def identifiers
        @profile.identifiers.includes(:identifier_kind).order(:id)
                .map { |row| { kind: row.identifier_kind.name, value: row.value, since: row.since.iso8601(6) } }
      end

      def attributes
        rows = @profile.attribute_values.includes(:attribute_definition)
        rows.order(:occurred_at, :attribute_definition_id).map do |row|
          { name: row.attribute_definition.name, value: row.value, **times(row) }
        end
      end

      def consents
        @profile.consents.order(:occurred_at, :id)
                .map { |row| { channel: row.channel, given: row.given, evidence: row.evidence, **times(row) } }
      end

      def events
        @profile.events.includes(:event_type, :source).order(:occurred_at, :id).map do |row|
          { id: row.event_key, source: row.source.name, type: row.event_type.name, **times(row), data: row.properties }
        end
      end

      def times(row) = { occurred_at: row.occurred_at.iso8601(6), received_at: row.received_at.iso8601(6) }
    end
  end
end
