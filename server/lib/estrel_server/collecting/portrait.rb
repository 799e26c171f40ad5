# frozen_string_literal: true

module EstrelServer
  module Collecting
    # Who a profile was at one moment, kept with a merge so that it can still be told who the two were before.
    module Portrait
      module_function

      # @param profile [Integer]
      # @return [Hash] plain JSON: kind, identifiers, newest attributes, events per type with first and last time
      def of(profile)
        identifiers = Identifier.joins(:identifier_kind).where(profile_id: profile).order(:id)
                                .pluck("identifier_kinds.name", :value, :created_at)
        { "profile" => profile,
          "identifiers" => identifiers.map do |kind, value, at|
            { "kind" => kind, "value" => value, "since" => at.iso8601(6) }
          end,
          "attributes" => attributes(profile), "events" => events(profile) }
      end

      def attributes(profile)
        rows = AttributeValue.joins(:attribute_definition).where(profile_id: profile).order(:occurred_at)
                             .pluck("attribute_definitions.name", "attribute_values.value")
        rows.to_h
      end
      private_class_method :attributes

      def events(profile)
        rows = Event.joins(:event_type).where(profile_id: profile).group("event_types.name").order("event_types.name")
                    .pluck("event_types.name", Arel.sql("COUNT(*)"), Arel.sql("MIN(occurred_at)"),
                           Arel.sql("MAX(occurred_at)"))
        rows.map do |type, count, first, last|
          { "type" => type, "count" => count, "first" => first.iso8601(6), "last" => last.iso8601(6) }
        end
      end
      private_class_method :events
    end
  end
end
