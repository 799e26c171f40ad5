# frozen_string_literal: true

module EstrelServer
  module Collecting
    # Who a profile was at one moment, kept with a merge so that it can still be told who the two were before.
    #
    # Asks each table by profile alone and puts names to numbers here: on freshly filled tables the database would read
    # a joined one from the wrong end.
    module Portrait
      module_function

      # @param profile [Integer]
      # @return [Hash] plain JSON: profile type, identifiers, newest attributes, events per type with first and last
      #   time
      def of(profile)
        { "profile" => profile, "identifiers" => identifiers(profile), "attributes" => attributes(profile),
          "events" => events(profile) }
      end

      def identifiers(profile)
        names = IdentifierKind.pluck(:id, :name).to_h
        rows = Identifier.where(profile_id: profile).order(:id).pluck(:identifier_kind_id, :value, :since)
        rows.map { |kind, value, at| { "kind" => names[kind], "value" => value, "since" => at.iso8601(6) } }
      end
      private_class_method :identifiers

      def attributes(profile)
        rows = AttributeValue.where(profile_id: profile).order(:occurred_at).pluck(:attribute_definition_id, :value)
        return {} if rows.empty?

        rows.to_h.transform_keys(AttributeDefinition.pluck(:id, :name).to_h)
      end
      private_class_method :attributes

      def events(profile)
        counts = Event.where(profile_id: profile).group(:event_type_id)
                      .pluck(:event_type_id, Arel.sql("COUNT(*)"), Arel.sql("MIN(occurred_at)"),
                             Arel.sql("MAX(occurred_at)"))
        names = EventType.where(id: counts.map(&:first)).pluck(:id, :name).to_h
        rows = counts.map do |type, count, first, last|
          { "type" => names[type], "count" => count, "first" => first.iso8601(6), "last" => last.iso8601(6) }
        end
        rows.sort_by { |row| row["type"] }
      end
      private_class_method :events
    end
  end
end
