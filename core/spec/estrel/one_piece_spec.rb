# frozen_string_literal: true

require "tmpdir"

RSpec.describe Estrel::OnePiece do
  def stretch(range) = Polars::DataFrame.new({ "profile_id" => range.to_a, "name" => range.map { |id| "n#{id}" } }, schema_overrides: { "profile_id" => Polars::Int64, "name" => Polars::String })

  # What filters leave of several stretches: often some without rows before others.
  let(:frames) do
    random = Random.new(RSpec.configuration.seed)
    Array.new(200) do
      last = 0
      whole = Array.new(1 + random.rand(5)) { stretch((last + 1)..(last += random.rand(4))) }.reduce(:vstack)
      kept = (1..last).select { random.rand < 0.3 }
      whole.filter(Polars.col("profile_id").is_in([0, *kept]))
    end
  end

  def written(frame)
    Dir.mktmpdir do |place|
      described_class.of(frame).write_ipc(path = File.join(place, "frame"), compression: "uncompressed")
      described_class.of(frame).write_parquet(other = File.join(place, "other"))
      [Estrel::Ledger::Generation.mapped(path).rows, Polars.read_parquet(other).rows]
    end
  end

  it "keeps every row when written, and when sent to another process" do
    expect(frames.map { |frame| frame["profile_id"].chunk_lengths }).to include(satisfy { |lengths| lengths.first.zero? && lengths.sum == 1 })
    frames.each do |frame|
      rows = frame.rows
      expect(written(frame)).to eq([rows, rows])
      expect(Estrel::Transit.load(Estrel::Transit.dump([frame, frame["name"]])).map(&:to_a)).to eq([frame.to_a, frame["name"].to_a])
    end
  end
end
