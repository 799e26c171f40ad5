# frozen_string_literal: true

module EstrelServer
  module Collecting
    # Who profiles were at one moment, kept with a merge so that it can still be told who the two were before.
    #
    # Asks each table by profile alone and puts names to numbers here: on freshly filled tables the database would read
    # a joined one from the wrong end.
    class Portraits
      # @param profiles [Array<Integer>]
      def initialize(profiles)
        @identifiers = Identifier.where(profile_id: profiles).order(:id)
                                 .pluck(:profile_id, :identifier_kind_id, :value, :since).group_by(&:shift)
        @attributes = AttributeValue.where(profile_id: profiles).order(:occurred_at)
                                    .pluck(:profile_id, :attribute_definition_id, :value).group_by(&:shift)
        counts = [Arel.sql("COUNT(*)"), Arel.sql("MIN(occurred_at)"), Arel.sql("MAX(occurred_at)")]
        @events = Event.where(profile_id: profiles).group(:profile_id, :event_type_id)
                       .pluck(:profile_id, :event_type_id, *counts).group_by(&:shift)
      end

      # @param profile [Integer]
      # @return [Hash] plain JSON: profile type, identifiers, newest attributes, events per type with first and last
      #   time
      def of(profile)
        { "profile" => profile, "identifiers" => identifiers(profile), "attributes" => attributes(profile),
          "events" => events(profile) }
      end

      private

      def identifiers(profile)
        @kinds ||= IdentifierKind.ids.invert
        @identifiers.fetch(profile, []).map do |kind, value, at|
          { "kind" => @kinds[kind], "value" => value, "since" => at.iso8601(6) }
        end
      end

      def attributes(profile)
        return {} unless @attributes.key?(profile)

        @names ||= AttributeDefinition.pluck(:id, :name).to_h
        @attributes[profile].to_h.transform_keys(@names)
      end

      def events(profile)
        return [] unless @events.key?(profile)

        @types ||= EventType.pluck(:id, :name).to_h
        rows = @events[profile].map do |type, count, first, last|
          { "type" => @types[type], "count" => count, "first" => first.iso8601(6), "last" => last.iso8601(6) }
        end
        rows.sort_by { |row| row["type"] }
      end
    end
  end
end
