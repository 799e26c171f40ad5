# frozen_string_literal: true

require_relative "../server_helper"

RSpec.describe "processes that are killed under load" do
  let(:estrel) { SupervisedEstrel.new(File.join(ROOT, "var/supervised"), full: true) }

  after { estrel.stop }

  # Within how many seconds everything has to be back.
  def limit = 15

  it "are back within seconds, take no other with them, and lose nothing, also where their manager has no room for its log" do
    estrel.start
    expect(estrel.wait(60) { estrel.served? }).to be(true), estrel.last_status
    estrel.begin_load
    expect(estrel.wait(30) { estrel.acknowledged.size > 100 && estrel.served?(100) }).to be(true), estrel.last_status
    [*estrel.pids.keys, "database"].shuffle(random: Random.new(1)).each do |victim|
      before = estrel.pids
      acknowledged = estrel.acknowledged.size
      Process.kill("KILL", before.fetch(victim))
      sleep 0.5
      expect(estrel.wait(limit) { estrel.served?(acknowledged) }).to be(true), "#{victim} was not back within #{limit} s: #{estrel.last_status}"
      expect(estrel.pids.except(victim)).to eq(before.except(victim)), "#{victim} took others with it"
    end
    estrel.end_load
    stored = estrel.stored
    expect(estrel.acknowledged - stored).to eq([])
    expect(stored.tally.values.uniq).to eq([1])
    estrel.stop
    expect(estrel.leftovers).to eq([])
  end
end
