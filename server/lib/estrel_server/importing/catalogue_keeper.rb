# frozen_string_literal: true

module EstrelServer
  module Importing
    # Keeps the catalogue of event types, properties and attributes up to date with what arrives.
    #
    # A field that arrives with a second type becomes text and is marked mixed; that is never undone.
    class CatalogueKeeper
      MIXED = "mixed"
      # How many names there can be. More is a sender's mistake, such as an id used as a name.
      MAX_TYPES = 1_000
      MAX_PROPERTIES = 500
      MAX_ATTRIBUTES = 500
      UPSERT = "ON DUPLICATE KEY UPDATE mixed = mixed OR VALUES(mixed) OR value_type <> VALUES(value_type), " \
               "value_type = IF(mixed, 'text', value_type)"

      def initialize
        reload
      end

      # Makes sure that event types, their properties and sources are catalogued.
      #
      # @param events [Array<Array(String, Hash)>] type and properties
      # @param sources [Array<String>]
      # @return [void]
      def observe(events, sources)
        @event_types = names(EventType, "event_types", events.map(&:first), @event_types)
        @sources = names(Source, "sources", sources, @sources)
        fresh, flagged = changes(events, @properties)
        rows = fresh.map { |(type, name), kind| [@event_types.fetch(type), name, *stored(kind), suggested(name)] }
        SQL.insert("event_properties", "event_type_id, name, value_type, mixed, personal_suggested", rows, UPSERT)
        flagged.each { |type, name| flag(EventProperty.where(event_type_id: @event_types.fetch(type), name: name)) }
        @properties = read_properties if fresh.any?
      end

      # The events that would bring more names into the catalogue than it takes.
      #
      # @param events [Array<Array(String, Hash)>] type and properties, in order
      # @return [Hash{Integer => String}] position to the reason
      def overflow(events)
        types = @event_types.keys.to_set
        names = Hash.new { |hash, type| hash[type] = (@properties[type] || {}).keys.to_set }
        events.each_with_index.with_object({}) do |((type, properties), index), found|
          reason = overflow_reason(types, names[type], type, properties)
          next found[index] = reason if reason

          types << type
          names[type].merge(properties.keys)
        end
      end

      # The same for the attributes of profiles.
      #
      # @param rows [Array<Hash>]
      # @return [Hash{Integer => String}] position to the reason
      def attribute_overflow(rows)
        names = @attributes.fetch(nil).keys.to_set
        rows.each_with_index.with_object({}) do |(attributes, index), found|
          next if attributes.each_key.all? { |name| names.include?(name) }

          if (names | attributes.keys).size > MAX_ATTRIBUTES
            found[index] = "attribute limit reached (#{MAX_ATTRIBUTES})"
          else
            names.merge(attributes.keys)
          end
        end
      end

      # @param rows [Array<ProfileReader::Facts>]
      # @return [void]
      def observe_attributes(rows)
        given = rows.map { |row| [nil, row.attributes] }
        fresh, flagged = changes(given, @attributes) { |value| Values.attribute_type(value) }
        SQL.insert("attribute_definitions", "name, value_type, mixed, personal_suggested",
                   fresh.map { |(_, name), kind| [name, *stored(kind), suggested(name)] }, UPSERT)
        flag(AttributeDefinition.where(name: flagged.map(&:last))) if flagged.any?
        @attributes, @attribute_ids = read_attributes if fresh.any?
      end

      # @return [Integer, nil]
      def event_type_id(name) = @event_types[name]

      # @return [Integer, nil]
      def source_id(name) = @sources[name]

      # @return [Hash{String => Integer}]
      attr_reader :attribute_ids

      # Forgets what a rolled-back transaction may have added.
      #
      # @return [void]
      def reload
        @flagged = Set.new
        @event_types = EventType.pluck(:name, :id).to_h
        @sources = Source.pluck(:name, :id).to_h
        @properties = read_properties
        @attributes, @attribute_ids = read_attributes
      end

      private

      def overflow_reason(types, names, type, properties)
        if !types.include?(type) && types.size >= MAX_TYPES
          "event type limit reached (#{MAX_TYPES})"
        elsif properties.size + names.size > MAX_PROPERTIES && (names | properties.keys).size > MAX_PROPERTIES
          "#{type} has #{names.size} properties already; at most #{MAX_PROPERTIES} are kept"
        end
      end

      def names(model, table, wanted, known)
        missing = wanted.uniq - known.keys
        return known if missing.empty?

        SQL.insert(table, "name", missing.zip, "ON DUPLICATE KEY UPDATE name = VALUES(name)")
        model.pluck(:name, :id).to_h
      end

      # The fields whose type is new, as {[owner, name] => type}, and those with numbers out of range.
      def changes(rows, known, &type)
        type ||= Values.method(:type)
        types = Hash.new { |kinds, value| kinds[value] = type.call(value) }
        fresh = {}
        flagged = Set.new
        rows.each do |owner, fields|
          seen = known[owner]
          fields.each do |name, value|
            kind = types[value]
            flagged << [owner, name] if value.instance_of?(EventJson::OutOfRange)
            before = seen && seen[name]
            next if kind.nil? || before == kind || before == MIXED

            key = [owner, name]
            fresh[key] = before.nil? && [nil, kind].include?(fresh[key]) && kind != "nested" ? kind : MIXED
          end
        end
        [fresh, flagged - @flagged].tap { @flagged.merge(flagged) }
      end

      def flag(rows) = rows.update_all(out_of_range: true)

      def suggested(name) = Access::PersonalData.name?(name) ? 1 : 0

      def stored(kind) = kind == MIXED ? ["text", 1] : [kind, 0]

      def read_properties
        EventProperty.joins(:event_type).pluck("event_types.name", "event_properties.name", :value_type, :mixed)
                     .group_by(&:shift)
                     .transform_values { |rows| rows.to_h { |name, kind, mixed| [name, mixed ? MIXED : kind] } }
      end

      def read_attributes
        rows = AttributeDefinition.pluck(:name, :value_type, :mixed, :id)
        [{ nil => rows.to_h { |name, kind, mixed, _| [name, mixed ? MIXED : kind] } },
         rows.to_h { |name, _, _, id| [name, id] }]
      end
    end
  end
end
