# frozen_string_literal: true

require_relative "server_helper"

RSpec.describe EstrelServer::Answers::Garbage do
  subject(:garbage) { described_class.new(clock: -> { now.first }, memory: -> { held.sum }, collect: collect) }

  let(:now) { [100.0] }
  # What it needs, and what it does not.
  let(:held) { [80_000_000, 0] }
  let(:cleared) { [] }
  let(:collect) { -> { (cleared << now.first) && (held[1] = 0) } }

  before { garbage }

  def grows(by) = (held[1] += by)

  it "clears away what is little where nobody waits, and not again for two seconds" do
    expect(garbage.wait).to be_nil
    grows(4_999_999)
    garbage.idle
    expect([garbage.wait, cleared]).to eq([nil, []])
    grows(1)
    garbage.answered
    expect([garbage.wait, cleared]).to eq([0.2, []])
    garbage.idle
    expect([garbage.wait, cleared]).to eq([nil, [100.0]])

    now[0] = 101.0
    grows(6_000_000)
    expect(garbage.wait).to eq(1.0)
    now[0] = 101.9
    expect(garbage.wait).to eq(0.2)
  end

  it "clears away what is much at once, counted from the least it has held" do
    held[0] = 100_000_000
    grows(9_999_999)
    garbage.answered
    expect(cleared).to be_empty
    grows(1)
    garbage.answered
    expect(cleared).to eq([100.0])

    held[0] = 70_000_000 # given back later
    garbage.answered
    grows(29_999_999)
    garbage.answered
    expect(cleared.size).to eq(1)
    grows(1)
    garbage.answered
    expect(cleared.size).to eq(2)
  end

  it "does not look again for what it could not clear away" do
    held[0] = 95_000_000
    expect(garbage.wait).to eq(0.2)
    garbage.idle
    now[0] = 200.0
    expect(garbage.wait).to be_nil
  end
end
