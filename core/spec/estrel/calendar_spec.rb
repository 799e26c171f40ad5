# frozen_string_literal: true

RSpec.describe Estrel::Calendar do
  def micros(text) = (Time.iso8601(text).to_r * 1_000_000).to_i

  it "bounds days by local midnight, also where the clock changes" do
    calendar = described_class.new("Europe/Berlin")
    spring = Date.new(2026, 3, 29)
    autumn = Date.new(2026, 10, 25)

    expect(calendar.start_of(spring)).to eq(micros("2026-03-28T23:00:00Z"))
    expect(calendar.end_of(spring) - calendar.start_of(spring)).to eq(23 * 3600 * 1_000_000)
    expect(calendar.end_of(autumn) - calendar.start_of(autumn)).to eq(25 * 3600 * 1_000_000)
    expect(calendar.day_of(calendar.end_of(autumn) - 1)).to eq(autumn)
    expect(calendar.day_of(calendar.end_of(autumn))).to eq(autumn + 1)
  end

  it "starts a day whose midnight is skipped at the first instant there is, and one repeated at the first of the two" do
    expect(described_class.new("America/Sao_Paulo").start_of(Date.new(2018, 11,
                                                                      4))).to eq(micros("2018-11-04T03:00:00Z"))
    expect(described_class.new("America/Havana").start_of(Date.new(2025, 11, 2))).to eq(micros("2025-11-02T04:00:00Z"))
  end

  it "gives whole columns the same days" do
    calendar = described_class.new("Pacific/Auckland")
    instants = Array.new(200) { |index| micros("2026-04-04T00:00:00Z") + (index * 1_799_999_999) }
    column = Polars::DataFrame.new({ "at" => instants }).select([calendar.day_numbers(Polars.col("at"))])["at"].to_a

    expect(column.map { |number| described_class.date(number) }).to eq(instants.map { |at| calendar.day_of(at) })
  end

  it "refuses a time zone there is not" do
    expect { described_class.new("Europe/Ferrowick") }.to raise_error(Estrel::Calendar::UnknownTimeZone, /no time zone/)
  end

  it "tells the hours of many instants as of each by itself, on the days when clocks are put back or forward too" do
    random = Random.new(5)
    %w[Europe/Lisbon Australia/Lord_Howe America/Sao_Paulo Africa/Monrovia UTC].each do |zone|
      calendar = described_class.new(zone)
      instants = Array.new(3_000) { random.rand(-10**12..(1_800_000_000 * 1_000_000)) } + Array.new(400) { |minute| Time.utc(2026, 3, 28, 20).to_i.*(1_000_000) + (minute * 300_000_000) }
      frame = Polars::DataFrame.new({ "at" => instants }).with_columns([calendar.counted_days(Polars.col("at")).alias("day"), calendar.hours_of_day(Polars.col("at")).alias("hour")])
      expect(calendar.hours(frame["at"], frame["day"]).to_a).to eq(frame["hour"].to_a), zone
    end
  end
end
