# frozen_string_literal: true

require_relative "server_helper"

RSpec.describe EstrelServer::Database::OnceHeard do
  include ApiHelper

  let(:several) { EstrelServer.settings.dup.tap { |settings| allow(settings).to receive(:database_url).and_return("mysql://somewhere") } }

  def connection = EstrelServer::Record.connection

  def waits? = connection.select_value("SELECT @@wsrep_sync_wait") == 7

  # The waits that statements of the block were in for.
  def waiting(&block)
    waits = []
    watch = lambda { |*, told|
      if told[:sql].start_with?("SELECT") && told[:name] != "SCHEMA" && waits_for?(told[:connection])
        waits << told[:sql][%r{\A[^/]*}].strip
      end
    }
    ActiveSupport::Notifications.subscribed(watch, "sql.active_record", &block)
    waits
  end

  def waits_for?(asked) = !asked.transaction_open? && asked.raw_connection.query("SELECT @@wsrep_sync_wait").first == [7]

  before do
    connection.execute("SET wsrep_sync_wait = 7")
    allow(EstrelServer).to receive(:settings).and_return(several)
  end

  after { connection.execute("SET wsrep_sync_wait = 0") }

  it "has a request, what senders are known by and a step of the ledger wait once each, and everything else as before" do
    sign_in
    expect(waiting { call(:get, "/audiences") }).to eq(["SELECT 1"])
    expect(waiting { EstrelServer::Collecting::Directory.new.contents }).to eq(["SELECT 1"])
    expect(waiting { EstrelServer::Workers::LedgerFollower.new.step }.tally).to include("SELECT 1" => 1)
    expect(waits?).to be(true)
    expect(described_class.unheard { waits? }).to be(false)
    expect { described_class.within(EstrelServer::Record) { raise ArgumentError } }.to raise_error(ArgumentError)
    expect(waits?).to be(true)
    allow(several).to receive(:database_url)
    expect(waiting { call(:get, "/audiences") }.size).to be > 1
  end

  it "has a connection wait that is given to another thread meanwhile, and makes one anew where its end is gone" do
    described_class.within(EstrelServer::Record) do
      expect(waits?).to be(false)
      given = connection
      EstrelServer::Record.connection_pool.release_connection
      found = Thread.new { EstrelServer::Record.connection_pool.with_connection { |taken| [taken, waits?] } }.value
      expect(found).to eq([given, true])
    end
    described_class.within(EstrelServer::Record) { connection.raw_connection.close }
    expect(connection.select_value("SELECT 1")).to eq(1)
  end

  it "leaves connections for more threads than there are" do
    pool = EstrelServer::Record.connection_pool
    before = pool.stat[:busy]
    answered = Queue.new
    threads = Array.new(pool.size + 1) { Thread.new { (answered << EstrelServer::Collecting::Directory.new.contents) && sleep } }
    expect(threads.map { answered.pop }).to all(be_a(EstrelServer::Collecting::Directory::Contents))
    expect(pool.stat[:busy]).to eq(before)
  ensure
    threads.each(&:kill)
  end
end
