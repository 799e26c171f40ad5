# frozen_string_literal: true

RSpec.describe Estrel::Exports::Schedule do
  def micros(text) = (Time.iso8601(text).to_r * 1_000_000).to_i

  def times(json, from, count, zone: "Europe/Berlin")
    schedule = described_class.new(json)
    calendar = Estrel::Calendar.new(zone)
    at = micros(from)
    Array.new(count) { Time.at((at = schedule.next_after(at, calendar)) / 1_000_000).utc.iso8601 }
  end

  it "keeps to the wall clock over daylight saving" do
    # The clocks of Berlin go from 2 to 3 on 29 Mar 2026, and from 3 back to 2 on 25 October.
    expect(times({ "every" => "day", "at" => "07:30" }, "2026-03-28T00:00:00Z", 3)).to eq(%w[2026-03-28T06:30:00Z 2026-03-29T05:30:00Z 2026-03-30T05:30:00Z])
    expect(times({ "every" => "day", "at" => "02:30" }, "2026-03-28T12:00:00Z", 2)).to eq(%w[2026-03-29T01:00:00Z 2026-03-30T00:30:00Z])
    expect(times({ "every" => "day", "at" => "02:30" }, "2026-10-24T12:00:00Z", 2)).to eq(%w[2026-10-25T00:30:00Z 2026-10-26T01:30:00Z])
    # Not twice in the hour that comes twice.
    expect(times({ "every" => "day", "at" => "02:30" }, "2026-10-25T00:30:00Z", 1)).to eq(["2026-10-26T01:30:00Z"])
  end

  it "knows weeks and months, short ones too" do
    expect(times({ "every" => "week", "on" => 1, "at" => "00:00" }, "2026-05-03T22:00:00Z", 2)).to eq(%w[2026-05-10T22:00:00Z 2026-05-17T22:00:00Z])
    expect(times({ "every" => "month", "on" => 31, "at" => "09:00" }, "2026-01-31T08:00:00Z", 3, zone: "UTC")).to eq(%w[2026-01-31T09:00:00Z 2026-02-28T09:00:00Z 2026-03-31T09:00:00Z])
    schedule = described_class.new({ "every" => "day", "at" => "07:30" })
    expect(schedule.times(micros("2026-05-01T07:30:00Z"), micros("2026-05-04T07:30:00Z"), Estrel::Calendar.new("UTC"))).to eq(3)
  end

  it "knows a single date, and refreshes, which have no times" do
    expect(times({ "every" => "once", "on" => "2026-03-29", "at" => "02:30" }, "2026-03-01T00:00:00Z", 1)).to eq(["2026-03-29T01:00:00Z"])
    berlin = Estrel::Calendar.new("Europe/Berlin")
    once = described_class.new({ "every" => "once", "on" => "2026-03-29", "at" => "02:30" })
    expect(once.next_after(micros("2026-03-29T01:00:00Z"), berlin)).to be_nil
    expect(once.times(micros("2026-03-29T01:00:00Z"), micros("2026-04-29T01:00:00Z"), berlin)).to eq(1)
    refresh = described_class.new({ "every" => "refresh" })
    expect([refresh.refresh?, refresh.next_after(micros("2026-03-29T01:00:00Z"), berlin), refresh.to_h]).to eq([true, nil, { "every" => "refresh" }])
  end

  it "refuses what is no schedule" do
    [nil, { "every" => "hour", "at" => "07:30" }, { "every" => "day", "at" => "7:30" }, { "every" => "day", "at" => "24:00" }, { "every" => "week", "at" => "07:30" },
     { "every" => "week", "on" => 8, "at" => "07:30" }, { "every" => "month", "on" => 0, "at" => "07:30" }, { "every" => "day", "on" => 1, "at" => "07:30" },
     { "every" => "once", "at" => "07:30" }, { "every" => "once", "on" => "2026-02-30", "at" => "07:30" }, { "every" => "refresh", "at" => "07:30" }].each do |json|
      expect { described_class.new(json) }.to raise_error(Estrel::Exports::Invalid)
    end
  end
end
