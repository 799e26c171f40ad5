# frozen_string_literal: true

require_relative "server_helper"

RSpec.describe EstrelServer::Database::AdvisoryLock do
  # Runs a block on a connection of its own, as another process would.
  def elsewhere = Thread.new { EstrelServer::Record.connection_pool.with_connection { yield } }.value # rubocop:disable Style/ExplicitBlockArgument

  def lock = described_class.new("spec")

  it "is held by one at a time, waited for as long as is said, and free once its holder has let it go" do
    expect(lock.free?).to be(true)
    found = lock.hold do
      expect(elsewhere { lock.free? }).to be(false)
      expect { elsewhere { lock.hold { raise "both at once" } } }.to raise_error(described_class::Busy)
      :done
    end
    expect([found, lock.free?]).to eq([:done, true])
    expect { lock.hold { raise ArgumentError } }.to raise_error(ArgumentError)
    expect(lock.free?).to be(true)
    held = Queue.new
    holder = Thread.new do
      EstrelServer::Record.connection_pool.with_connection { lock.hold { (held << true) && sleep(0.3) } }
    end
    held.pop
    expect(lock.hold(wait: 5) { :mine }).to eq(:mine)
    holder.join
  end

  it "is lost with the connection that held it, and says so" do
    lock.hold do |mine|
      mine.check
      EstrelServer::Record.connection.execute("DO RELEASE_ALL_LOCKS()")
      expect { mine.check }.to raise_error(described_class::Lost)
    end
  end

  it "keeps two from building the ledger or reading a file at once" do
    described_class.new(EstrelServer::LedgerBuilding::Builder::LOCK).hold do
      stub_const("EstrelServer::LedgerBuilding::Builder::PATIENCE", 0)
      expect { elsewhere { EstrelServer::LedgerBuilding::Builder.new.refresh } }.to raise_error(EstrelServer::Error, /another process/)
    end
  end
end
