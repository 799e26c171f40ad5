# frozen_string_literal: true

require_relative "../server_helper"

RSpec.describe EstrelServer::Importing::CsvRows do
  let(:header) { "id,type,subject,time,note\n" }

  def row(id, note = "x") = "#{id},ride_ended,customer:1,2026-05-03T10:00:00Z,#{note}\n"

  def now = Process.clock_gettime(Process::CLOCK_MONOTONIC)

  def in_file(content, name = "file.csv.gz")
    Dir.mktmpdir do |directory|
      path = File.join(directory, name)
      name.end_with?(".gz") ? Zlib::GzipWriter.open(path) { |gzip| gzip.write(content) } : File.write(path, content)
      yield path
    end
  end

  # As the CSV library reads each row by itself.
  def by_library(text) = CSV.parse(text, headers: true).map { |fields| fields.to_h.transform_values(&:to_s) }

  it "reads ordinary quoted rows many at a time just as the CSV library does" do
    random = Random.new(Checks.seed)
    fields = ["", "x", "\"\"", "\"a,b\"", "\"say \"\"hi\"\"\"", "\" x \"", "4.50", "007", "ü", "\"two\nlines\"", "\"\"\"\"", "NULL", "\"NULL\"", "true", " y", "\"=1\""]
    text = "a,b,c\n#{Array.new(5000) { Array.new(3) { fields.sample(random: random) }.join(",") }.reject { |line| line == ",," }.join("\n")}\n"
    allow(CSV).to receive(:parse_line).and_call_original
    in_file(text, "file.csv") do |path|
      found = described_class.new(EstrelServer::Importing::InputFile.new(path)).enum_for(:each).map { |one| one.values.transform_values(&:to_s) }
      expect(found).to eq(by_library(text))
      expect(CSV).to have_received(:parse_line).once # for the header
    end
  end

  it "bounds a row whose quote never closes, in linear time, and goes on after it" do
    open = row(2, "\"never closed")
    content = "#{header}#{row(1)}#{open}#{"3\n" * 600_000}"
    # Every further line adds two bytes, until there is one more than may be.
    joined = ((described_class::MAX_ROW - open.chomp.bytesize) / 2) + 1
    in_file(content) do |path|
      started = now
      read = import_file(path)
      expect(now - started).to be < 30
      expect([read.state, read.stored, read.rejected]).to eq(["done", 1, 1 + 600_000 - joined])
      expect(read.rejects.pluck(:reason)).to include(/longer than 1048576 bytes; a quoted field may never be closed/)
    end
    in_file("#{header}\"never closed\n#{"3\n" * 900_000}") do |path|
      started = now
      expect(import_file(path)).to have_attributes(state: "failed", error: /none of the first 100000 rows could be used/)
      expect(now - started).to be < 30
    end
  end

  it "stops at once when it is cancelled, wherever it is" do
    in_file("#{header}1,ride_ended,customer:1,2026-05-03T10:00:00Z,\"never closed\n#{"3\n" * 30_000_000}") do |path|
      import = EstrelServer::Import.create!(kind: "events", file_name: "x.csv.gz", path: path, mapping: {})
      reading = Thread.new { EstrelServer::Importing::FileImporter.new(import).run }
      sleep 1
      started = now
      EstrelServer::Import.where(id: import.id).update_all(cancel_requested: true)
      reading.join(10)
      # Two seconds on a machine that does nothing else; bin/attack holds it to that.
      expect([import.reload.state, now - started < 5]).to eq(["cancelled", true])
    end
  end

  it "stops at the most a file may unpack to" do
    settings = EstrelServer::Settings.from(ENV.to_h.merge("ESTREL_UNPACKED_MB" => "1"))
    in_file(header + (row(1, "y" * 200) * 10_000)) do |path|
      import = EstrelServer::Import.create!(kind: "events", file_name: "x.csv.gz", path: path, mapping: {})
      expect(EstrelServer::Importing::FileImporter.new(import, settings).run).to have_attributes(state: "failed", error: "the file unpacks to more than 1 MB")
    end
  end
end
