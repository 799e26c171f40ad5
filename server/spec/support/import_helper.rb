# frozen_string_literal: true

require "json"

# Writes small files and imports them the way the command line and the workers do.
module ImportHelper
  # @return [EstrelServer::Import] finished
  def import(content, kind: "events", mapping: {}, name: "file")
    Dir.mktmpdir do |directory|
      path = File.join(directory, name)
      File.binwrite(path, content)
      import_file(path, kind: kind, mapping: mapping)
    end
  end

  def import_file(path, kind: "events", mapping: {}, &progress)
    import = EstrelServer::Import.create!(kind: kind, file_name: File.basename(path), path: path, mapping: mapping)
    EstrelServer::Importing::FileImporter.new(import, &progress).run
  end

  # A CloudEvents line; changes with nil leave a key out.
  def event(id, **changes)
    base = { "specversion" => "1.0", "id" => id, "source" => "app", "type" => "ride_ended", "subject" => "customer:1",
             "time" => "2026-05-03T10:00:00Z", "data" => { "km" => 4.5 } }
    JSON.generate(base.merge(changes.transform_keys(&:to_s)).compact)
  end

  # Everything that was stored, without the numbers the database gives out and the times of receipt.
  def stored
    { events: stored_events,
      attributes: EstrelServer::AttributeValue.joins(:attribute_definition, profile: :identifiers)
                                              .pluck("identifiers.value", "attribute_definitions.name", :occurred_at, :value)
                                              .sort_by(&:to_s),
      identifiers: EstrelServer::Identifier.joins(:identifier_kind).pluck("identifier_kinds.name", :value).sort,
      profiles: EstrelServer::Profile.count,
      catalogue: EstrelServer::EventProperty.joins(:event_type)
                                            .pluck("event_types.name", "event_properties.name", :value_type, :mixed).sort }
  end

  # Put together here: joining five freshly filled tables takes the database minutes until its statistics catch up.
  def stored_events
    names = [EstrelServer::Source, EstrelServer::EventType].map { |model| model.pluck(:id, :name).to_h }
    people = EstrelServer::Identifier.joins(:identifier_kind).pluck(:profile_id, "identifier_kinds.name", :value)
                                     .to_h { |id, kind, value| [id, [kind, value]] }
    rows = EstrelServer::Event.pluck(:source_id, :event_key, :event_type_id, :profile_id, :occurred_at, :properties)
    rows.map { |source, key, type, person, *rest| [names[0][source], key, names[1][type], *people[person], *rest] }
        .sort_by { |row| row.first(5) }
  end

  def reasons(import) = import.rejects.order(:row_number).pluck(:row_number, :reason)

  def refresh = EstrelServer::LedgerBuilding::Builder.new.refresh
end
