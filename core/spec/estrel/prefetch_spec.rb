# frozen_string_literal: true

RSpec.describe Estrel::Ledger::Prefetch do
  let(:written) do
    { "events-1-1-ab.arrow" => [500, 0], "events-2-1-ab.arrow" => [40, 0], "spine-1-ab.arrow" => [300, 0], "profiles-1-ab.arrow" => [100, 0],
      "renamed-1-ab.arrow" => [1, 0] }
  end

  def names(available) = described_class.new("/nowhere", written, available).files.map { |name| name[/\A\w+(-\d)?/] }

  it "reads what nearly every question needs first, then small files before large ones, into half of what is available" do
    expect(names(1_882)).to eq(%w[profiles-1 spine-1 renamed-1 events-2 events-1])
    expect(names(1_881)).to eq(%w[profiles-1 spine-1 renamed-1 events-2])
    expect(names(799)).to eq(%w[profiles-1])
    expect(names(0)).to eq([])
  end

  it "gives up where a file has gone, and knows what is available" do
    expect(described_class.new("/nowhere", written, 10_000).run).to be_nil
    expect(described_class.available).to be > 1_000_000
  end
end
