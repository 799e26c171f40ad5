# frozen_string_literal: true

require "csv"
require "json"
require "tmpdir"

RSpec.describe Estrel::Exports::RowsFile do
  let(:texts) { ["plain", "a,b", "say \"no\"", "two\nlines", "=1+2", "-5", "@me", "é;ü", "tab\there", "back\\slash \u0001", "", nil, "'quoted", "+351 900"] }
  let(:numbers) { [0.0, 0.5, 3.0, -2.25, 123_456_789.0, nil, -1.0, 0.1, 1e9, 2.5, 7.0, 8.0, 9.0, 10.0] }
  let(:frame) do
    flags = texts.each_index.map { |index| index.zero? ? nil : index.even? }
    Polars::DataFrame.new({ "text" => texts, "number" => numbers, "yes" => flags, "*" => texts.map { "star" }, "^text$" => texts.map { "hat" }, "=odd name" => texts.each_index.to_a })
  end

  def written(*frames, **settings)
    Dir.mktmpdir do |directory|
      path = File.join(directory, "file")
      described_class.new(Estrel::Exports::Settings::FILE.merge(settings.transform_keys(&:to_s))).write(frames, path)
      File.binread(path)
    end
  end

  it "writes CSV that other programs read back, whatever the text" do
    { "comma" => ",", "semicolon" => ";", "tab" => "\t" }.each do |name, separator|
      rows = CSV.parse(written(frame, separator: name, neutralise: false).force_encoding("UTF-8"), headers: true, col_sep: separator, row_sep: "\r\n")
      expect(rows.map { |row| row["text"] }).to eq(texts.map { |text| text == "" ? nil : text })
      expect(rows.map { |row| row["number"] }).to eq(%w[0 0.5 3 -2.25 123456789] + [nil] + %w[-1 0.1 1000000000 2.5 7 8 9 10])
      expect(rows.map { |row| row["yes"] }.first(3)).to eq([nil, "false", "true"])
      expect(rows.map { |row| row.values_at("*", "^text$") }).to all(eq(%w[star hat]))
    end
  end

  it "neutralises what a spreadsheet would run, but not numbers" do
    rows = CSV.parse(written(frame).force_encoding("UTF-8"), headers: true)
    expect(rows.headers.last).to eq("'=odd name")
    expect(rows.map { |row| row["text"] }.values_at(4, 5, 6, 13)).to eq(["'=1+2", "-5", "'@me", "'+351 900"])
  end

  it "writes JSON Lines and Parquet with the values as they are" do
    rows = written(frame, format: "jsonl").lines.map { |line| JSON.parse(line) }
    expect(rows.map { |row| row["text"] }).to eq(texts)
    expect(rows[3]).to eq({ "text" => "two\nlines", "number" => -2.25, "yes" => false, "*" => "star", "^text$" => "hat", "=odd name" => 3 })
    Dir.mktmpdir do |directory|
      described_class.new(Estrel::Exports::Settings::FILE.merge("format" => "parquet")).write([frame.head(3), frame.slice(3, 99)], File.join(directory, "x"))
      expect(Polars.read_parquet(File.join(directory, "x")).rows).to eq(frame.rows)
    end
  end

  it "gives the same bytes again, also packed, and says which character an encoding lacks" do
    expect(Zlib.gunzip(written(frame, gzip: true))).to eq(written(frame))
    first = written(frame, gzip: true)
    sleep 1.1 # a time in the head would differ
    expect(written(frame, gzip: true)).to eq(first)
    expect(written(frame.head(5), frame.slice(5, 99), encoding: "utf-8-bom")).to eq(written(frame, encoding: "utf-8-bom"))
    expect(written(frame, encoding: "utf-8-bom")).to start_with("\xEF\xBB\xBFtext,".b)
    expect(written(frame, encoding: "windows-1252").b).to include("\xE9;\xFC".b)
    expect { written(Polars::DataFrame.new({ "a" => ["ł"] }), encoding: "windows-1252") }.to raise_error(Estrel::Exports::Invalid, /"ł" cannot be encoded in Windows-1252/)
    expect(written(frame.head(0))).to eq("text,number,yes,*,^text$,'=odd name\r\n")
  end
end
