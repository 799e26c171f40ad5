# frozen_string_literal: true

require_relative "server_helper"

RSpec.describe EstrelServer::LiveEvents::LiveFeed do
  include ApiHelper

  let(:done) { [] }
  let(:rounds) { Thread::Queue.new }
  let(:feed) { described_class.new }

  before do
    allow(feed).to receive(:sleep) { (done << true) && rounds.pop }
    allow(described_class).to receive(:shared).and_return(feed)
  end

  # A connection that watches, as the web server hands it over.
  def watch(key)
    env = Rack::MockRequest.env_for("/api/live-events/live", "REMOTE_ADDR" => "127.0.0.1", "HTTP_HOST" => "127.0.0.1:4270", "rack.hijack?" => true, **key)
    _, headers, = app.call(env)
    reader, writer = UNIXSocket.pair
    headers["rack.hijack"].call(writer)
    reader
  end

  def session(account) = { "HTTP_COOKIE" => "estrel_session=#{EstrelServer::AccountSession.open(account)}" }

  # Whether the other end is open; what was written to it is read away.
  def open?(reader)
    loop do
      bytes = reader.read_nonblock(1000, exception: false)
      return !bytes.nil? if bytes.nil? || bytes == :wait_readable
    end
  end

  def next_round
    Timeout.timeout(10) do
      sleep(0.01) until rounds.num_waiting.positive?
      ended = done.size
      rounds << true
      sleep(0.01) until done.size > ended
    end
  end

  it "ends when the session, the token, the role or the account does, and does not keep the session alive" do
    accounts = %w[a b c d e].map { |name| EstrelServer::Account.create!(email: "#{name}@estrel.example", role: "analyst") }
    token = EstrelServer::ApiToken.issue(accounts[0], "feed", ["write"])
    watched = [watch({ "HTTP_AUTHORIZATION" => "Bearer #{token.last}" }), *accounts[1..].map { |account| watch(session(account)) }]
    EstrelServer::AccountSession.update_all(used_at: 2.hours.ago)
    next_round
    expect(watched.map { |reader| open?(reader) }).to eq([true] * 5)
    expect(EstrelServer::AccountSession.where(used_at: 1.hour.ago..).count).to eq(0)
    token.first.update!(revoked_at: Time.now.utc)
    accounts[1].account_sessions.delete_all
    accounts[2].change_role("viewer")
    accounts[3].update!(disabled_at: Time.now.utc)
    next_round
    expect(watched.map { |reader| open?(reader) }).to eq([false, false, false, false, true])
  end

  it "closes an account's own oldest connection for one too many, and no other account's" do
    other, account = %w[a b].map { |name| EstrelServer::Account.create!(email: "#{name}@estrel.example", role: "analyst") }
    first = watch(session(other))
    watched = Array.new(described_class::MAX_PER_ACCOUNT + 2) { watch(session(account)) }
    next_round
    expect([first, *watched].map { |reader| open?(reader) }).to eq([true, false, false, *[true] * described_class::MAX_PER_ACCOUNT])
  end
end
