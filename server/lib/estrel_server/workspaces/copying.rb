# frozen_string_literal: true

module EstrelServer
  module Workspaces
    # Copies what is shared in another workspace into the one that this thread works in: audiences, rule sets and
    # groups, as documents, and what the catalogue says of event types, properties and attributes. Nobody's data is
    # copied.
    class Copying
      # What a copy does not take over: its own number, its time, and what refers to other rows.
      OWN = %w[id created_at event_type_id merged_into_id].freeze
      private_constant :OWN

      # @param from [Place]
      def initialize(from)
        Workspaces.within(from) do
          @documents = DefinitionFiles::Writing.new.documents
          @catalogue = EstrelServer.ledger.current.catalogue
          @types = EventType.where(merged_into_id: nil).includes(:event_properties).map do |type|
            [plain(type), type.event_properties.map { |property| plain(property) }]
          end
          @attributes = AttributeDefinition.all.map { |attribute| plain(attribute) }
        end
      rescue Estrel::Ledger::Missing
        raise Error, "workspace #{from.name} has no data, so it has no definitions to copy"
      end

      # @param keep [Boolean] false: only to see what would be done
      # @return [Array<DefinitionFiles::Applying::Done>]
      # @raise [Error]
      def carry_out(keep: true)
        done = nil
        Record.transaction do
          catalogue
          done = DefinitionFiles::Applying.new(@documents, @catalogue).carry_out(keep: true)
          raise ActiveRecord::Rollback unless keep

          Workspace.catalogue_changed
        end
        done
      end

      private

      def plain(row) = row.attributes.except(*OWN)

      # What is known here already stays as it is.
      def catalogue
        @types.each do |type, properties|
          row = EventType.create_with(type).find_or_create_by!(name: type["name"])
          known = row.event_properties.pluck(:name)
          properties.each { |one| row.event_properties.create!(one) unless known.include?(one["name"]) }
        end
        @attributes.each { |one| AttributeDefinition.create_with(one).find_or_create_by!(name: one["name"]) }
      end
    end
  end
end
