# frozen_string_literal: true

require_relative "../server_helper"

RSpec.describe "a damaged ledger" do
  include ApiHelper

  let(:directory) { EstrelServer.settings.ledger_directory }
  let(:follower) { EstrelServer::Workers::LedgerFollower.new }

  let(:earlier) { in_force }

  def file(name) = File.join(directory, name)

  def in_force = File.read(file("CURRENT")).strip

  def files = Estrel::Ledger::Manifest.read(file(in_force)).pieces.first.files

  # As another process would: nothing of the ledger is open there yet.
  def afresh = Estrel::Ledger.new(directory)

  def reopen = EstrelServer.instance_variable_set(:@ledger, nil)

  before do
    import(event("1"))
    refresh
    earlier # remembered
    import([event("2"), event("3", subject: "customer:2")].join("\n"))
    refresh
    sign_in
  end

  damages = { "a truncated data file" => ->(path) { File.truncate(path, File.size(path) / 2) }, "another byte in it" => ->(path) { File.open(path, "r+b") { |io| io.seek(File.size(path) / 2) && io.write("\x5a\xa5\x5a") } },
              "a missing file" => ->(path) { File.delete(path) } }
  damages.each do |what, damage|
    it "is noticed when opened (#{what}), the generation before serves, and it is rebuilt by itself" do
      damage.call(file(files.fetch("profiles")))
      ledger = afresh
      expect([ledger.current.manifest_name, ledger.current.base_size, ledger.damage]).to match([earlier, 1, /missing|bytes instead|other contents/])
      reopen
      expect(call(:post, "/audiences/preview", { definition: { "all" => [] } })["size"]).to eq(1)
      expect(call(:get, "/workspace/faults")["faults"].map { |row| row.values_at("process", "step") }).to eq([%w[ledger opening]])
      follower.step
      expect(call(:post, "/audiences/preview", { definition: { "all" => [] } })["size"]).to eq(2)
      expect(call(:get, "/workspace/faults")["faults"]).to eq([])
    end
  end

  it "is noticed by what stands in its manifest, and when all of it is gone" do
    File.truncate(file(in_force), 40)
    expect(afresh.current.manifest_name).to eq(earlier)
    File.write(file("CURRENT"), "")
    expect(afresh.current.base_size).to eq(1)
    follower.step
    expect(afresh.current.base_size).to eq(2)
    FileUtils.rm_rf(directory)
    reopen
    expect(call(:post, "/audiences/preview", { definition: { "all" => [] } })["detail"]).to include("being built anew")
    expect(call(:get, "/workspace")).to include("ready" => false, "rebuilding" => true)
    follower.step
    expect(call(:get, "/workspace")).to include("ready" => true, "rebuilding" => false)
  end

  it "is noticed while it is open, by the length of its files" do
    expect([EstrelServer.ledger.intact?, EstrelServer.ledger.current.base_size]).to eq([true, 2])
    File.delete(file(files.fetch("reach")))
    expect(EstrelServer.ledger.intact?).to be(false)
    follower.step
    expect([EstrelServer.ledger.intact?, EstrelServer.ledger.current.base_size, EstrelServer.ledger.damage]).to eq([true, 2, nil])
  end

  it "stays as it was where the disk is full in the middle of writing" do
    import(event("4", subject: "customer:3"))
    kept = Dir.children(directory)
    allow_any_instance_of(Estrel::Ledger::Writer).to receive(:put_reach).and_raise(Errno::ENOSPC) # rubocop:disable RSpec/AnyInstance
    follower.step
    expect(Dir.children(directory)).to match_array(kept)
    expect(call(:get, "/workspace/faults")["faults"].first).to include("process" => "ledger", "step" => "refresh", "message" => include("No space left"), "count" => 1)
    expect(call(:get, "/people")["total"]).to eq(2)
  end
end
