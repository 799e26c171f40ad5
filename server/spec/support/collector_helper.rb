# frozen_string_literal: true

require "rack/test"
require "yaml"

# Sends CloudEvents to the collector, as a source with a key.
module CollectorHelper
  include Rack::Test::Methods

  COLLECTOR = JSONSchemer.openapi(YAML.safe_load_file(File.join(ROOT, "docs/collector.yaml")))

  def app = EstrelServer::Collecting::Application

  def forget_directory = EstrelServer::Workspaces.current.forget(:collecting_directory)

  # @return [String] a key of a new source
  def key_for(name, **settings)
    source = EstrelServer::Source.create!(name: name, **settings)
    forget_directory
    EstrelServer::SendingKey.issue(source).last
  end

  def cloud_event(id, type: "ride_ended", subject: "customer:1", time: "2026-05-03T10:00:00Z", data: { "km" => 4.5 }, **others)
    { "specversion" => "1.0", "id" => id, "source" => "app", "type" => type, "subject" => subject, "time" => time,
      "data" => data }.merge(others.transform_keys(&:to_s)).compact
  end

  def link(id, one, other, **others) = cloud_event(id, type: "estrel.link", subject: one, data: { "same_as" => other }, **others)

  def attributes(id, subject, time: "2026-05-03T10:00:00Z", **values)
    cloud_event(id, type: "estrel.attributes", subject: subject, time: time, data: values.transform_keys(&:to_s))
  end

  def send_batch(events, key:, body: nil, **headers)
    send_body(body || JSON.generate(events), "application/cloudevents-batch+json", key: key, **headers)
  end

  def send_body(body, type, key:, **headers)
    header("Authorization", "Bearer #{key}")
    headers.each { |name, value| header(name.to_s.tr("_", "-"), value) }
    header("Content-Type", type)
    post("/events", body)
    headers.each_key { |name| header(name.to_s.tr("_", "-"), nil) }
    JSON.parse(last_response.body).tap { |answer| check_against_description_of_collector(answer) }
  end

  def check_against_description_of_collector(answer)
    schema = COLLECTOR.schema(answer.key?("events") ? "Outcome" : "Problem")
    expect(schema.validate(answer).map { |fault| fault["error"] }).to eq([])
    expect(last_response.media_type).to eq(answer.key?("events") ? "application/json" : "application/problem+json")
  end

  def outcomes(answer) = answer["events"].map { |row| row["outcome"] }

  # Who has done what and holds what, without the numbers the database gives out.
  def histories
    EstrelServer::Profile.where(merged_into_id: nil).map do |profile|
      { identifiers: profile.identifiers.includes(:identifier_kind).map(&:to_s).sort,
        events: profile.events.order(:occurred_at).pluck(:event_key).sort,
        attributes: profile.attribute_values.joins(:attribute_definition).order(:occurred_at)
                           .pluck("attribute_definitions.name", :occurred_at, :value).sort_by(&:to_s) }
    end
  end
end
