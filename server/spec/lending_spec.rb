# frozen_string_literal: true

require_relative "server_helper"

# Pieces of a ledger written by a machine that answers parts, from the same store.
RSpec.describe EstrelServer::Parts::Lender do
  include CollectorHelper
  include LedgerContents

  before do
    stub_const("EstrelServer::LedgerBuilding::Pieces::PEOPLE", 2)
    %w[WORTH WORTH_FOR_TAIL].each { |name| stub_const("EstrelServer::LedgerBuilding::PieceProcesses::#{name}", 0) }
    allow(EstrelServer::Parts::Network).to receive(:of) { |settings| machine.network if settings.nats_urls.any? }
    borrowed { |one| note(one) }
    EstrelServer::Log.output = StringIO.new
    collect(attributes("a", "customer:1", mail: "a@b.example"), cloud_event("v", type: "ride", subject: "visitor:v"))
    import((1..12).map { |index| event("e#{index}", type: %w[ride pass][index % 2], subject: "customer:#{index % 8}", time: "2026-05-#{format("%02d", index)}T10:00:00Z", data: { "n" => index }) }.join("\n"))
    machine.start
  end

  after do
    machine.stop
    EstrelServer::Log.output = nil
  end

  let(:machine) { OtherMachine.new("1") }
  let(:written) { [] }
  let(:ledger) { Estrel::Ledger.new(machine.here.ledger_directory) }
  let(:builder) { EstrelServer::LedgerBuilding::Builder.new(ledger, machine.here) }
  let(:key) { key_for("app") }

  def collect(*messages) = outcomes(send_batch(messages, key: key))

  def borrowed(&block)
    making = ->(made, *given) { made.call(*given).tap(&block) }
    allow(EstrelServer::Parts::Borrowed).to receive(:new).and_wrap_original(&making)
  end

  # Which pieces the other machine has written.
  def note(one)
    noting = lambda do |write, *given|
      write.call(*given).tap { |found| written << given.last if found }
    end
    allow(one).to receive(:write).and_wrap_original(&noting)
  end

  # Some of those it holds: who builds writes what others have not begun with yet.
  def theirs = satisfy { |pieces| pieces.any? && (pieces - [1, 3, 5]).empty? }

  # The same store as one process writes it.
  def alone
    stub_const("EstrelServer::LedgerBuilding::PieceProcesses::WORTH", 1_000)
    Dir.mktmpdir { |place| all_of(Estrel::Ledger.new(place).tap { |one| EstrelServer::LedgerBuilding::Builder.new(one).build }.current) }
  ensure
    stub_const("EstrelServer::LedgerBuilding::PieceProcesses::WORTH", 0)
  end

  it "writes those it holds, from the beginning and on from a base, and keeps what it has written" do
    EstrelServer::Parts::Leading.new(machine.here).lead do
      builder.build
      expect([ledger.current.pieces.size, written]).to match([6, theirs])
      expect(all_of(ledger.current)).to eq(alone)
      kept = machine.aside.to_h { |path| [File.basename(path), File.stat(path).ino] }
      machine.take(ledger)
      expect(kept.size).to be >= 7
      expect([kept.keys.to_h { |file| [file, File.stat(File.join(machine.there.ledger_directory, file)).ino] }, machine.aside]).to eq([kept, []])
      collect(link("l", "visitor:v", "customer:1"), cloud_event("w", type: "pass", subject: "customer:3"), cloud_event("x", type: "ride", subject: "customer:new"))
      written.clear
      builder.prepare
      expect([written, all_of(ledger.prepared)]).to match([theirs, alone])
      builder.build
      expect(all_of(ledger.current)).to eq(alone)
    end
  end

  it "writes those it holds of a tail, too" do
    EstrelServer::Parts::Leading.new(machine.here).lead do
      builder.build
      2.times do |round|
        machine.take(ledger)
        collect(link("l#{round}", "visitor:v", "customer:#{round}"), attributes("b#{round}", "customer:#{round}", mail: "b@b.example"), *(0..7).map { |index| cloud_event("w#{round}#{index}", type: "pass", subject: "customer:#{index}", data: { "n" => index }) })
        written.clear
        builder.build
        expect([ledger.current.tail.pieces.size, written, all_of(ledger.current)]).to match([6, theirs, alone])
      end
    end
  end

  it "is done without where it has not got the base, is held up, or is gone, and does not help itself" do
    found = alone
    builder.build
    expect(written).to theirs
    written.clear
    builder.prepare # of which nobody has told it
    expect([written, all_of(ledger.prepared)]).to eq([[], found])
    stub_const("EstrelServer::Parts::Line::SILENCE", 2)
    borrowed { machine.signal("STOP") }
    builder.build(rebuild: true)
    expect(all_of(ledger.current)).to eq(found)
    machine.signal("CONT")
    EstrelServer::LedgerBuilding::Turn.new(machine.there.ledger_directory, "leading").take { expect(EstrelServer::Parts::Borrowed.all(machine.here, 3)).to eq([]) }
  end
end
