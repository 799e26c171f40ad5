# frozen_string_literal: true

require_relative "server_helper"

RSpec.describe "background work" do
  describe EstrelServer::Collecting::RateLimit do
    let(:now) { [0.0] }
    let(:limit) { described_class.new(-> { now.first }) }
    let(:kiosk) { EstrelServer::Collecting::Directory::Source.new(id: 1, events_per_minute: 60) }

    def after(seconds) = now[0] += seconds

    it "empties a bucket that fills evenly, says how long to wait, and lets nobody save up" do
      expect([limit.wait(kiosk, 50), limit.wait(kiosk, 10), limit.wait(kiosk, 1)]).to eq([nil, nil, 1])
      expect(limit.wait(kiosk, 30)).to eq(30)
      after(29.5)
      expect(limit.wait(kiosk, 30)).to eq(1)
      after(0.5)
      expect([limit.wait(kiosk, 30), limit.wait(kiosk, 1)]).to eq([nil, 1])
      after(3600)
      expect([limit.wait(kiosk, 60), limit.wait(kiosk, 1)]).to eq([nil, 1])
    end

    it "lets more than a minute's worth pass at once, and has it made good; others are not concerned" do
      expect([limit.wait(kiosk, 180), limit.wait(kiosk, 1)]).to eq([nil, 121])
      other = EstrelServer::Collecting::Directory::Source.new(id: 2, events_per_minute: 1)
      free = EstrelServer::Collecting::Directory::Source.new(id: 3, events_per_minute: nil)
      expect([limit.wait(other, 1), limit.wait(other, 1), limit.wait(free, 1_000_000)]).to eq([nil, 60, nil])
      after(121)
      expect(limit.wait(kiosk, 1)).to be_nil
    end
  end

  describe EstrelServer::Workers::LedgerFollower do
    let(:builder) { EstrelServer::LedgerBuilding::Builder.new }
    let(:follower) { described_class.new(builder) }

    it "refreshes when there is something new, and not before" do
      allow(builder).to receive(:refresh).and_call_original
      import(event("1"))
      expect([follower.step, follower.step]).to all(be >= described_class::PAUSE)
      expect(builder).to have_received(:refresh).once
      expect(EstrelServer.ledger.current.events("ride_ended").height).to eq(1)
      import(event("2"))
      follower.step
      expect(EstrelServer.ledger.current.events("ride_ended").height).to eq(2)
    end

    it "rests after work, and not for long after it has only waited" do
      allow(builder).to receive(:behind?).and_return(true)
      work = -> { Process.times.to_a.sum }
      busy = -> { work.call.then { |before| nil until work.call > before + 0.8 } }
      rests = [-> { sleep 2 }, busy].map do |doing|
        allow(builder).to(receive(:refresh) { doing.call })
        follower.step
      end
      expect(rests).to match([be < 2, be > 0.75])
    end

    it "has one process at a time prepare a new base where the tail is long, and tells where that fails" do
      allow(builder).to receive(:long?).and_return(true)
      Dir.mktmpdir do |directory|
        gate = File.join(directory, "gate")
        words = ["until [ -e #{gate} ]; do sleep 0.02; done", "exit 1", "exit 0"]
        started = []
        allow(Process).to(receive(:spawn).and_wrap_original { |spawn, *| spawn.call(words.shift).tap { |pid| started << pid } })
        # Over, and not yet waited for.
        ended = -> { 500.times { File.read("/proc/#{started.last}/stat").include?(") Z ") ? break : sleep(0.02) } }
        2.times { follower.step }
        expect(Process).to have_received(:spawn).with(/estrel/, "ledger", "prepare").once
        File.write(gate, "")
        2.times do
          ended.call
          follower.step
        end
        expect(words.size).to eq(1)
      end
      expect(EstrelServer::Fault.pluck(:process, :step)).to eq([%w[ledger preparing]])
    end

    it "clears away what was kept for a few days only, once an hour" do
      kept = EstrelServer::Refusal::KEPT_DAYS * 86_400
      old, new = [-60, 60].map { |by| Time.now.utc - kept + by }
      make = ->(time) { EstrelServer::Refusal.insert!({ reason: "late", payload: "{}", received_at: time }) }
      [old, new].each(&make)
      left = Array.new(2) { EstrelServer.settings.exchange_file("left").tap { |path| File.write(path, "") } }
      File.utime(*[Time.now - (2 * 86_400)] * 2, left.first)
      follower.step
      expect([EstrelServer::Refusal.pluck(:received_at), left.map { |path| File.exist?(path) }]).to match([[be_within(1).of(new)], [false, true]])
      make.call(old)
      follower.step
      expect(EstrelServer::Refusal.count).to eq(2)
      described_class.new(builder).step
      expect(EstrelServer::Refusal.count).to eq(1)
    end
  end
end
