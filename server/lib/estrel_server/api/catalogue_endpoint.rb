# frozen_string_literal: true

module EstrelServer
  module API
    # What is known of event types, properties and attributes, and what an analyst says about them.
    class CatalogueEndpoint < Endpoint
      get("/catalogue", role: "viewer", scope: "read", personal: "none") do
        columns = Estrel::Exports::Columns.available(generation)
        named = generation.catalogue.named
        people = Estrel::Survey.new(generation, as_of).people
        types = named["event_types"].map { |type| type.merge("people" => people.fetch(type["name"])) }
        respond({ **named, "event_types" => types, "columns" => columns })
      end

      # What can be said of an event type besides its name.
      SAID = %w[description folder not_activity hidden].freeze
      private_constant :SAID

      # The most frequent values of an attribute or of a property, for completing what is typed.
      get("/catalogue/values", role: "analyst", scope: "write", personal: "raw") do
        wanted = %i[attribute event property].to_h { |name| [name, params[name]] }
        respond({ values: Estrel::Ledger::TopValues.new(generation).of(**wanted) })
      end

      get("/catalogue/survey", role: "viewer", scope: "read", personal: "none") do
        rows = EventType.includes(:merged_into).order(:folder, :name)
        respond({ as_of: as_of, customer_ids_like_addresses: survey.customer_ids_like_addresses,
                  event_types: rows.map { |row| describe_type(row) }, attributes: describe_attributes })
      end

      get("/catalogue/types/:id", role: "viewer", scope: "read", personal: "none") do
        respond({ **describe_type(type), properties: describe_properties })
      end

      put("/catalogue/types/:id", role: "analyst", scope: "write", personal: "none") do
        json = given
        EventType.transaction do
          changes = json.slice(*SAID).compact.merge(json.slice("noun", "phrase"))
          changes["merged_into"] = target(json["merged_into"]) if json.key?("merged_into")
          type.assign_attributes(changes)
          note_reading
          type.save!
          Workspace.catalogue_changed
        end
        respond(describe_type(type))
      end

      put("/catalogue/properties/:id", role: "analyst", scope: "write", personal: "none", log: "catalogue changed") do
        respond(redescribe(EventProperty))
      end

      put("/catalogue/attributes/:id", role: "analyst", scope: "write", personal: "none", log: "catalogue changed") do
        respond(redescribe(AttributeDefinition))
      end

      private

      def type = @type ||= EventType.find(path_id)

      def survey = @survey ||= Estrel::Survey.new(whole_generation, as_of)

      def target(name)
        return if name.nil?

        EventType.find_by(name: name.to_s) or
          raise Problem.new(422, "there is no event type #{name.to_s[0, 60].inspect}")
      end

      # How the type was read until now, where that changes.
      def note_reading
        return unless type.not_activity_changed? || type.merged_into_id_changed?

        CatalogueChange.create!(event_type: type, was_not_activity: type.not_activity_was,
                                was_merged_into_id: type.merged_into_id_was, changed_at: Time.now.utc)
      end

      def redescribe(model)
        row = model.find(path_id)
        model.transaction do
          row.update!(given.slice("description", "personal", "display", "quantity", "unit", "value_names"))
          Workspace.catalogue_changed
        end
        { id: row.id, **said(row) }
      end

      def said(row)
        { description: row.description, personal: row.personal?, personal_said: row.personal, display: row.display,
          quantity: row.quantity, unit: row.unit, value_names: row.value_names || {},
          suggested: Estrel::English.humanised(row.name) }
      end

      NOTHING_SEEN = { count: 0, first_day: nil, last_day: nil, fresh: false,
                       volume: [0] * Estrel::Survey::DAYS }.freeze
      private_constant :NOTHING_SEEN

      def describe_type(row)
        { id: row.id, name: row.name, noun: row.noun, phrase: row.phrase, description: row.description,
          suggested: Estrel::English.humanised(row.name),
          suggested_phrase: Estrel::English.participle(row.noun || Estrel::English.humanised(row.name)),
          folder: row.folder,
          not_activity: row.not_activity, hidden: row.hidden, merged_into: row.merged_into&.name,
          mixed: generation.catalogue.event_types[row.name]&.properties&.each_value&.any?(&:mixed) || false,
          first_received_at: instant(row.created_at), **survey.event_types.fetch(row.name, NOTHING_SEEN) }
      end

      # A merged type's properties are told where its events are read.
      def describe_properties
        return [] unless generation.catalogue.event_types.key?(type.name)

        seen = survey.properties(type.name)
        type.event_properties.order(:name).filter_map do |row|
          field = generation.catalogue.event_types[type.name].properties[row.name] or next
          describe_field(row, field, seen.fetch(row.name))
        end
      end

      def describe_attributes
        seen = survey.attributes
        AttributeDefinition.order(:name).filter_map do |row|
          field = generation.catalogue.attributes[row.name] or next
          describe_field(row, field, seen.fetch(row.name))
        end
      end

      def describe_field(row, field, seen)
        { id: row.id, name: row.name, type: field.type, mixed: field.mixed, out_of_range: row.out_of_range, **said(row),
          **seen }
      end
    end
  end
end
