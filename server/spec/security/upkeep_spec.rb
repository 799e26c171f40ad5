# frozen_string_literal: true

require_relative "../server_helper"

RSpec.describe EstrelServer::Workers::Upkeep do
  let(:upkeep) { described_class.new("test") }

  before do
    EstrelServer::Fault.delete_all
    allow(upkeep).to receive(:warn) # as it does, at length
  end

  def faults = EstrelServer::Fault.pluck(:process, :step, :message, :count)

  it "keeps what fails, tries it again after pauses that grow, and lets the other steps go on" do
    done = []
    3.times do
      upkeep.step("bad") { raise ArgumentError, "no \xff good" }
      upkeep.step("good") { done << true }
    end
    expect([done.size, faults]).to eq([3, [["test", "bad", "ArgumentError: no \u{FFFD} good", 1]]])
    allow(upkeep).to receive(:now).and_return(1e9)
    expect { upkeep.step("bad") { raise "again" } }.to change { upkeep.pause("bad") }.from(0.5).to(1.0)
    expect(faults.first[2..]).to eq(["RuntimeError: again", 2])
    allow(upkeep).to receive(:now).and_return(2e9)
    expect(upkeep.step("bad") { :works }).to eq(:works)
    expect(faults).to eq([])
    12.times do |round|
      allow(upkeep).to receive(:now).and_return(3e9 + (round * 1000))
      upkeep.step("bad") { raise "again" }
    end
    expect(upkeep.pause("bad")).to eq(described_class::LONGEST_PAUSE)
  end

  it "settles what a process before has left, and leaves it to others where the database is away" do
    EstrelServer::Fault.keep("test", "bad", "left")
    upkeep.step("bad") { nil }
    expect(faults).to eq([])
    expect { upkeep.step("bad") { raise ActiveRecord::ConnectionFailed } }.to raise_error(ActiveRecord::ConnectionFailed)
  end

  it "is how the ledger's follower, the schedule and alerts live through anything" do
    builder = instance_double(EstrelServer::LedgerBuilding::Builder, long?: false)
    allow(builder).to receive(:behind?).and_raise(Polars::ComputeError, "unreadable")
    expect(EstrelServer::Workers::LedgerFollower.new(builder).step).to be_positive
    expect(faults.map { |row| row.first(3) }).to eq([["ledger", "refresh", "ComputeError: unreadable"]])
    import(event("1"))
    refresh
    alert_rule = EstrelServer::AlertRule.create!(kind: "nonsense", settings: {})
    expect(EstrelServer::Workers::Alerting.new(EstrelServer.ledger.current).run).to eq([alert_rule])
    expect(faults.map(&:first)).to contain_exactly("ledger", "alerts")
  end
end
