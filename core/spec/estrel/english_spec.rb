# frozen_string_literal: true

RSpec.describe Estrel::English do
  # The front end's formatter is held against the same cases.
  let(:cases) { JSON.parse(File.read(File.expand_path("../formats.json", __dir__))) }

  { "number" => ->(value) { described_class.number(value) }, "percent" => ->(value) { described_class.percent(value) },
    "growth" => ->(value) { described_class.growth(value) }, "signed" => ->(value) { described_class.change(value) },
    "date" => ->(value) { described_class.date(Date.iso8601(value)) }, "days" => ->(value) { described_class.counted(value, "day") },
    "points" => ->(value) { described_class.points(value) }, "ratio" => ->(value) { described_class.ratio(value) },
    "rate" => ->(value) { described_class.rate(value) }, "quantity" => ->(value) { described_class.quantity(*value) },
    "duration" => ->(value) { described_class.duration(value) }, "list" => ->(value) { described_class.list(value, "and") } }.each do |name, written|
    it "writes every #{name} in one form" do
      expect(cases.fetch(name).map { |value, _| instance_exec(value, &written) }).to eq(cases.fetch(name).map(&:last))
    end
  end

  it "lists alternatives" do
    expect([%w[new], %w[new active], %w[new active dormant]].map { |words| described_class.either(words) }).to eq(["new", "new or active", "new, active or dormant"])
  end

  it "makes whole sentences, but leaves names as they are" do
    said = { "choose a period" => "Choose a period.", "ride_ended has no km" => "ride_ended has no km.", "\"Days\" is missing" => "\"Days\" is missing.",
             "Nobody matches!" => "Nobody matches!", "a, b" => "A, b." }
    expect(said.keys.map { |text| described_class.sentence(text) }).to eq(said.values)
  end
end
