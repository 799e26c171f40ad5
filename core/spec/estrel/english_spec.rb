# frozen_string_literal: true

RSpec.describe Estrel::English do
  it "says shares so that somebody is never nobody" do
    { 0 => "0%", 0.0004 => "< 0.1%", 0.0005 => "0.1%", 0.031 => "3.1%", 0.1 => "10%", 0.456 => "46%", 1 => "100%" }
      .each { |share, said| expect(described_class.percent(share)).to eq(said) }
  end

  it "counts things in the singular and the plural" do
    expect([0, 1, 1200].map { |count| described_class.counted(count, "day") }).to eq(["0 days", "1 day", "1,200 days"])
    expect([%w[new], %w[new active], %w[new active dormant]].map { |words| described_class.either(words) }).to eq(["new", "new or active", "new, active or dormant"])
  end
end
