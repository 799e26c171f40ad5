# frozen_string_literal: true

require_relative "server_helper"

RSpec.describe EstrelServer::Database::Lease do
  # Runs a block on a connection of its own, as another process would.
  def elsewhere(&block)
    Thread.new { EstrelServer::Record.connection_pool.with_connection(&block) }.tap { |thread| thread.report_on_exception = false }.value
  end

  def lease = described_class.new("spec")

  def row = EstrelServer::Record.connection.select_one("SELECT * FROM leases WHERE name = 'spec'")

  def change(text) = EstrelServer::Record.connection.execute("UPDATE leases SET #{text} WHERE name = 'spec'")

  after { EstrelServer::Record.connection.execute("DELETE FROM leases") }

  it "is held by one at a time, waited for as long as is said, and free once its holder has let it go" do
    expect(lease.free?).to be(true)
    found = lease.hold do
      expect(elsewhere { lease.free? }).to be(false)
      expect { elsewhere { lease.hold { raise "both at once" } } }.to raise_error(described_class::Busy)
      :done
    end
    expect([found, lease.free?, row]).to eq([:done, true, nil])
    expect { lease.hold { raise ArgumentError } }.to raise_error(ArgumentError)
    expect(lease.free?).to be(true)
    held = Queue.new
    holder = Thread.new do
      EstrelServer::Record.connection_pool.with_connection { lease.hold { (held << true) && sleep(0.3) } }
    end
    held.pop
    expect(lease.hold(wait: 5) { :mine }).to eq(:mine)
    holder.join
  end

  it "is renewed while it is held, also by a holder that was late, where nobody else has taken it" do
    stub_const("#{described_class}::PAUSE", 0.05)
    lease.hold do |mine|
      change("held_until = NOW(6) - INTERVAL 1 MINUTE")
      sleep(0.3)
      expect(row["held_until"]).to be > Time.now + 10
      change("held_until = NOW(6) - INTERVAL 1 MINUTE")
      mine.check
      expect(elsewhere { lease.free? }).to be(false)
    end
  end

  it "is another's once its time has passed, or its holder is gone, and who had it learns so" do
    stub_const("#{described_class}::PAUSE", 60)
    lease.hold do |late|
      change("held_until = NOW(6) - INTERVAL 1 SECOND")
      elsewhere do
        lease.hold do |mine|
          expect { late.check }.to raise_error(described_class::Lost)
          mine.check
        end
      end
      expect(row).to be_nil
    end
    others = "INSERT INTO leases VALUES ('spec', %s, NOW(6) + INTERVAL 1 HOUR)"
    here = lease.hold { row["holder"] }.split("/").first
    { "another-machine/1/1/aa" => false, "#{here}/1/1/aa" => true }.each do |holder, free|
      EstrelServer::Record.connection.execute("DELETE FROM leases")
      EstrelServer::Record.connection.execute(format(others, "'#{holder}'"))
      expect(lease.free?).to eq(free)
      taken = begin
        lease.hold { true }
      rescue described_class::Busy
        false
      end
      expect(taken).to eq(free)
    end
  end

  it "is free at once where its holder was killed" do
    script = "require '#{ROOT}/server/lib/estrel_server'; EstrelServer::Database::Store.connect; " \
             "EstrelServer::Database::Lease.new('spec').hold { puts 'held'; $stdout.flush; sleep }"
    IO.popen([{ "ESTREL_VAR" => EstrelServer.settings.var }, "bundle", "exec", "ruby", "-e", script], chdir: ROOT) do |other|
      expect(other.gets).to eq("held\n")
      expect { lease.hold { nil } }.to raise_error(described_class::Busy)
      Process.kill("KILL", other.pid)
    end
    expect(lease.hold { :mine }).to eq(:mine)
  end

  it "keeps two from building the ledger at once" do
    builder = EstrelServer::LedgerBuilding::Builder
    EstrelServer::LedgerBuilding::Turn.new(EstrelServer.ledger.directory, builder::BUILDING).take do
      stub_const("#{builder}::PATIENCE", 0)
      expect { elsewhere { builder.new.refresh } }.to raise_error(EstrelServer::Error, /another process/)
    end
    expect(builder.new.refresh).to include("event_count" => 0)
  end
end
