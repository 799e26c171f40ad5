# frozen_string_literal: true

module EstrelServer
  module LedgerBuilding
    # The event types of the ledger: those of the store, misspelt ones read as the types they are merged into.
    class TypeMap
      # @return [Array<Estrel::Catalogue::EventType>] with the properties of everything read as each
      attr_reader :types
      # @return [Hash{Integer => Array<Integer>}] id of a type to the ids stored that are read as it
      attr_reader :read_as

      def initialize
        rows = EventType.order(:name).to_a
        groups = rows.group_by { |row| row.merged_into_id || row.id }
        @read_as = groups.transform_values { |group| group.map(&:id).sort }
        fields = EventProperty.order(:name).group_by(&:event_type_id)
        @types = rows.reject(&:merged_into_id).map do |row|
          type(row, @read_as.fetch(row.id).flat_map { |id| fields[id] || [] })
        end
      end

      # @param types [Array<Estrel::Catalogue::EventType>] these, counted
      # @return [Estrel::Catalogue] with everything else that stands in the store
      def catalogue(types = @types)
        attributes = AttributeDefinition.order(:name).map do |row|
          Estrel::Catalogue::Field.new(name: row.name, type: row.value_type, mixed: row.mixed, **row.shown).freeze
        end
        Estrel::Catalogue.new(event_types: types, attributes: attributes, aliases: EventType.aliases,
                              sources: Source.pluck(:id, :name).to_h, messaging: Workspace.current.messages)
      end

      private

      def type(row, fields)
        properties = fields.group_by(&:name).sort.to_h { |name, found| [name, field(name, found)] }
        Estrel::Catalogue::EventType.new(id: row.id, name: row.name, properties: properties, count: 0,
                                         folder: row.folder, not_activity: row.not_activity, hidden: row.hidden,
                                         description: row.description.presence, noun: row.noun, phrase: row.phrase)
      end

      # Types that disagree about a property make it mixed.
      def field(name, found)
        kinds = found.map(&:value_type).uniq
        mixed = found.any?(&:mixed) || kinds.size > 1
        shown = (found.find(&:display) || found.first).shown
        Estrel::Catalogue::Field.new(name: name, type: mixed ? "text" : kinds.first, mixed: mixed, **shown).freeze
      end
    end
  end
end
