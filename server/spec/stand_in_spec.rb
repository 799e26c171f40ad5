# frozen_string_literal: true

require_relative "server_helper"
require_relative "../../stand_in/lib/ferrowick_post"

RSpec.describe FerrowickPost do
  include Rack::Test::Methods

  let(:app) { described_class::App }
  let(:settings) { described_class::ServiceSetting.current }

  before do
    described_class.connect(EstrelServer::Database.new(EstrelServer.settings).stand_in_connection)
    [described_class::Happening, described_class::Message, described_class::Request, described_class::ServiceSetting].each(&:delete_all)
    header("Host", "127.0.0.1")
    header("Content-Type", "application/json")
  end

  def people(count) = Array.new(count) { |number| { "key" => format("%032x", number), "subject" => "customer:#{number}", "fields" => { "state" => %w[new active dormant churned][number % 4] } } }

  def tell(people, secret: settings.secret, id: "msg_1")
    body = JSON.generate({ data: { run: "run", export: "Spring", channel: "email", as_of: "2026-05-01", people: people } })
    EstrelServer::Pushing::Signature.new(secret).headers(id, Time.now.to_i, body).each { |name, value| header(name, value) }
    post("/batches", body)
  end

  it "takes people once each, and nobody from whom it does not know the signature" do
    2.times { tell(people(3)) }
    tell(people(5), id: "msg_2")
    expect(described_class::Message.count).to eq(5)
    expect(described_class::Request.order(:id).pluck(:people, :fresh)).to eq([[3, 3], [3, 0], [5, 2]])
    tell(people(9), secret: EstrelServer::Pushing::Signature.secret)
    expect([last_response.status, described_class::Message.count]).to eq([401, 5])
    expect(described_class::Message.first.sent_at).to eq(Time.utc(2026, 5, 2, 8))
  end

  it "misbehaves as often as it is asked to" do
    answers = %w[busy error page refuses].map do |trouble|
      settings.reload.update!(trouble: trouble, trouble_left: 1)
      tell(people(8))
      [last_response.status, last_response.headers["retry-after"], last_response.body]
    end
    expect(answers[0].first(2)).to eq([429, "2"])
    expect(answers[1].first).to eq(500)
    expect(answers[2].last).to start_with("<!doctype html>")
    expect(JSON.parse(answers[3].last)["refused"].map { |row| row["key"].hex }).to eq([0, 4])
    expect(described_class::Message.count).to eq(6)
    tell(people(8))
    expect([last_response.status, described_class::Message.count]).to eq([200, 8])
  end

  it "makes up what becomes of messages by channel and state, always the same for the same seed" do
    fates = people(8000).map { |person| described_class::Message.new(message_key: person["key"], channel: "email", person_state: person.dig("fields", "state")) }
                        .group_by(&:person_state).transform_values { |list| list.map { |message| described_class::Fate.new(7, message).happenings } }
    share = ->(list, kind) { list.count { |fate| fate.any? { |name, _| name == kind } }.fdiv(list.size) }
    expect(fates.transform_values { |list| share.call(list, "message_opened") }).to match("new" => be_within(0.04).of(0.446), "active" => be_within(0.04).of(0.388), "dormant" => be_within(0.03).of(0.194), "churned" => be_within(0.02).of(0.087))
    all = fates.values.flatten(1)
    expect(share.call(all, "message_bounced")).to be_within(0.01).of(0.03)
    expect(all.all? { |fate| fate.first.first == "message_bounced" ? fate.size == 1 : fate.each_cons(2).all? { |a, b| a[0] != "message_received" || b[1] > a[1] } }).to be(true)
    again = described_class::Message.new(message_key: people(1).first["key"], channel: "email", person_state: "new")
    expect(described_class::Fate.new(7, again).happenings).to eq(fates["new"].first)
    sms = described_class::Message.new(message_key: "1" * 32, channel: "sms", person_state: "new")
    expect(Array.new(300) { |seed| described_class::Fate.new(seed, sms).happenings.map(&:first) }.flatten.uniq).to contain_exactly("message_received", "message_clicked", "message_bounced", "message_unsubscribed")
  end

  it "tells the collector when it is time, twice and in no order where asked to, and withdraws consent of who unsubscribes" do
    received = []
    collector = TCPServer.new("127.0.0.1", 0)
    thread = Thread.new do
      loop do
        socket = collector.accept
        length = socket.gets("\r\n\r\n")[/content-length: (\d+)/i, 1].to_i
        received << JSON.parse(socket.read(length))
        socket.write("HTTP/1.1 200 OK\r\ncontent-length: 0\r\nconnection: close\r\n\r\n")
        socket.close
      end
    end
    settings.update!(collector: "http://127.0.0.1:#{collector.local_address.ip_port}/events", sending_key: "ek_x", day_seconds: 0.001, twice: true, shuffled: true)
    tell(people(400))
    deadline = Time.now + 10
    sleep(0.02) until described_class::Returner.new.step.zero? || Time.now > deadline
    expect(received.size).to be_even
    expect(received[0]).to eq(received[1])
    events = received.flatten.uniq
    expect(events.map { |event| event["type"] }.tally).to include("message_received" => be > 350, "message_opened" => be > 60)
    expect(events.select { |event| event["type"] == "estrel.consent" }.map { |event| event["subject"] }).to match_array(events.select { |event| event["type"] == "message_unsubscribed" }.map { |event| event["subject"] })
    expect(received[0].map { |event| event["time"] }).not_to eq(received[0].map { |event| event["time"] }.sort)
    expect(events.first["data"]).to include("campaign" => "Spring", "channel" => "email", "run" => "run")
  ensure
    thread&.kill
    collector&.close
  end
end
