# frozen_string_literal: true

RSpec.describe Estrel::Ledger::ResultCache do
  let(:cache) { described_class.new(limit: 2_500) }

  def fetch(cache, key, value = :computed) = cache.fetch(key) { value }

  it "drops what was used longest ago, of all that share it, where it has grown too large" do
    one, other = Array.new(2) { cache.until_forgotten }
    fetch(one, :first)
    fetch(other, :second)
    fetch(one, :first)
    fetch(other, :third)
    expect([fetch(one, :first, :anew), fetch(other, :third, :anew), fetch(other, :second, :anew)]).to eq(%i[computed computed anew])
  end

  it "forgets all of what has been replaced, and remembers what is still computed from it beside everything else" do
    gone, there = Array.new(2) { cache.until_forgotten }
    fetch(gone.within([:profiles, 1..2]), :part)
    fetch(there, :whole)
    late = gone.fetch(:late) do
      cache.forget(gone.within(:both))
      :computed
    end
    expect([late, fetch(gone, :late, :anew), fetch(gone.within([:profiles, 1..2]), :part, :anew)]).to eq(%i[computed computed anew])
    2.times { |number| fetch(gone, number) }
    expect(fetch(there, :whole, :anew)).to eq(:computed)
  end
end
