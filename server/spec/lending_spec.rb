# frozen_string_literal: true

require_relative "server_helper"

# Pieces of a ledger written by a machine that answers parts, from the same store.
RSpec.describe EstrelServer::Parts::Lender do
  include CollectorHelper
  include LedgerContents

  before do
    stub_const("EstrelServer::LedgerBuilding::Pieces::PEOPLE", 2)
    stub_const("EstrelServer::LedgerBuilding::PieceProcesses::WORTH", 0)
    stub_const("EstrelServer::Parts::Line::SILENCE", 2)
    allow(EstrelServer::Parts::Network).to receive(:of) { |settings| network if settings.nats_urls.any? }
    allow(EstrelServer::Parts::Borrowed).to receive(:new).and_wrap_original { |made, *given| made.call(*given).tap { |one| noting(one) } }
    EstrelServer::Log.output = StringIO.new
    collect(attributes("a", "customer:1", mail: "a@b.example"), cloud_event("v", type: "ride", subject: "visitor:v"))
    import((1..12).map { |index| event("e#{index}", type: %w[ride pass][index % 2], subject: "customer:#{index % 8}", time: "2026-05-#{format("%02d", index)}T10:00:00Z", data: { "n" => index }) }.join("\n"))
    lend
  end

  after do
    Process.kill("KILL", pids.first)
    Process.wait(pids.first)
    network.close
    nats.stop
    front.stop
    FileUtils.rm_rf(other)
    EstrelServer::Log.output = nil
  end

  let(:nats) { NatsServer.new }
  let(:front) { DatabaseFront.new }
  let(:other) { Dir.mktmpdir }
  let(:pids) { [] }
  let(:written) { [] }
  let(:network) { EstrelServer::Parts::Network.new(here) }
  let(:common) { { "ESTREL_NATS_URL" => nats.url, "ESTREL_SECRETS_KEY" => "of all machines", "ESTREL_PARTS" => "2", "ESTREL_PARTS_FROM_EVENTS" => "0", "ESTREL_ANSWERING_PROCESSES" => "1" } }
  let(:away) { common.merge("ESTREL_VAR" => other, "ESTREL_DATABASE_URL" => front.url, "ESTREL_PARTS_HELD" => "1") }
  let(:here) { EstrelServer::Settings.from(ENV.to_h.merge(common)) }
  let(:there) { EstrelServer::Settings.from(ENV.to_h.merge(away)) }
  let(:ledger) { Estrel::Ledger.new(here.ledger_directory) }
  let(:builder) { EstrelServer::LedgerBuilding::Builder.new(ledger, here) }
  let(:publisher) { EstrelServer::Parts::Publisher.new(network, here) }
  let(:key) { key_for("app") }

  def collect(*messages) = outcomes(send_batch(messages, key: key))

  def lend
    pids << Process.spawn(away, File.join(ROOT, "bin/estrel"), "ledger", "mirror", err: File::NULL)
    wait { network.client && EstrelServer::Parts::Borrowed.send(:offers, network, here).any? }
  end

  def wait
    600.times { yield ? return : sleep(0.05) }
    raise "it did not come"
  end

  # Which pieces the other machine has written.
  def noting(borrowed)
    allow(borrowed).to receive(:write).and_wrap_original { |write, *given| write.call(*given).tap { |found| written << given.last if found } }
  end

  def arrived
    name = ledger.current_manifest_or_nil
    publisher.publish { wait { Estrel::Ledger.new(there.ledger_directory).current_manifest_or_nil == name } }
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

  def aside = Dir.glob(File.join(there.written_directory, "*"))

  it "writes those it holds, from the beginning and on from a base, and keeps what it has written" do
    EstrelServer::Parts::Leading.new(here).lead do
      builder.build
      expect([ledger.current.pieces.size, written]).to match([6, theirs])
      expect(all_of(ledger.current)).to eq(alone)
      kept = aside.to_h { |path| [File.basename(path), File.stat(path).ino] }
      arrived
      expect(kept.size).to be >= 7
      expect([kept.keys.to_h { |file| [file, File.stat(File.join(there.ledger_directory, file)).ino] }, aside]).to eq([kept, []])
      collect(link("l", "visitor:v", "customer:1"), cloud_event("w", type: "pass", subject: "customer:3"), cloud_event("x", type: "ride", subject: "customer:new"))
      written.clear
      builder.prepare
      expect([written, all_of(ledger.prepared)]).to match([theirs, alone])
      builder.build
      expect(all_of(ledger.current)).to eq(alone)
    end
  end

  it "is done without where it has not got the base, is held up, or is gone, and does not help itself" do
    found = alone
    builder.build
    expect(written).to theirs
    written.clear
    builder.prepare # of which nobody has told it
    expect([written, all_of(ledger.prepared)]).to eq([[], found])
    allow(EstrelServer::Parts::Borrowed).to receive(:new).and_wrap_original { |made, *given| made.call(*given).tap { Process.kill("STOP", pids.first) } }
    builder.build(rebuild: true)
    expect(all_of(ledger.current)).to eq(found)
    Process.kill("CONT", pids.first)
    EstrelServer::LedgerBuilding::Turn.new(there.ledger_directory, "leading").take { expect(EstrelServer::Parts::Borrowed.all(here, 3)).to eq([]) }
  end
end
