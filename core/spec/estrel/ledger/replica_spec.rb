# frozen_string_literal: true

RSpec.describe Estrel::Ledger::Replica do
  around { |example| Dir.mktmpdir("estrel-replica") { |directory| (@directory = directory) && example.run } }

  let(:directory) { File.join(@directory, "ledger") } # rubocop:disable RSpec/InstanceVariable -- made around the example
  let(:replica) { described_class.new(directory) }
  let(:population) { RandomPopulation.new(Checks.seed).population }

  # What is asked of the other ledger, each file with the offsets.
  let(:asked) { Hash.new { |all, file| all[file] = [] } }

  def reader(ledger)
    lambda do |pieces|
      pieces.map do |file, offset|
        asked[file] << offset
        path = File.join(ledger.directory, file)
        File.binread(path, Estrel::Ledger::Fetch::CHUNK, offset) || "" if File.file?(path)
      end
    end
  end

  def take(ledger, name = ledger.manifest_name, read = reader(ledger)) = replica.take(name, &read)

  def current = Estrel::Ledger.new(directory).current

  def counted(ledger) = Estrel::Lifecycle.new(ledger, RandomPopulation.new(1).rule_set).counts(Date.new(2025, 9, 1), Date.new(2025, 11, 1))

  it "takes a generation with the one it is the tail of, a piece at a time, answers the same by the same name, and fetches nothing twice" do
    stub_const("Estrel::Ledger::Fetch::CHUNK", 512)
    stub_const("Estrel::Ledger::Fetch::AT_ONCE", [1, 2_000, 1 << 20].sample)
    with_ledger(population, tail: 8) do |ledger|
      expect(replica.current?(ledger.manifest_name)).to be(false)
      take(ledger)
      expect(replica.current?(ledger.manifest_name)).to be(true)
      expect([current.reference, current.base.reference, counted(current)]).to eq([ledger.reference, ledger.base.reference, counted(ledger)])
      expect(Dir.children(directory).sort).to eq([*ledger.written.keys, *ledger.base.written.keys, ledger.manifest_name, ledger.base.manifest_name, "CURRENT"].uniq.sort)
      expect(asked.values.map(&:size).max).to be > 1
      asked.clear
      take(ledger)
      expect(asked).to be_empty
    end
  end

  it "takes no more than the pieces that are held, and reads people of those only" do
    held = Estrel::Ledger::Held.new([0, 2], 3)
    with_ledger(population, tail: 24) do |ledger|
      described_class.new(directory, held).take(ledger.manifest_name, &reader(ledger))
      copy = Estrel::Ledger.new(directory, held: held).current
      expect([described_class.new(directory, held).current?(ledger.manifest_name), replica.current?(ledger.manifest_name)]).to eq([true, false])
      expect(Dir.children(directory).grep(/profiles/).size).to eq(3) # of two pieces and the tail
      expect(copy.base_size).to eq(ledger.ids.len)
      [0, 2].each { |index| expect(copy.part(3, index).spine.rows).to eq(ledger.part(3, index).spine.rows) }
      expect { copy.part(3, 1).spine }.to raise_error(Estrel::Ledger::Missing, /piece 2 of 3/)
    end
  end

  it "stays with what it has where something is gone or is not as it was written, and mends what it has lost" do
    with_ledger(population) do |first|
      take(first)
      with_ledger(RandomPopulation.new(Checks.seed).population) do |second|
        file = second.written.keys.last
        { Estrel::Ledger::Missing => nil, Estrel::Ledger::Damaged => "x" }.each do |error, answer|
          reading = ->(pieces) { pieces.map { |name, offset| name == file ? answer : reader(second).call([[name, offset]]).first } }
          expect { take(second, second.manifest_name, reading) }.to raise_error(error)
          expect([current.manifest_name, Dir.children(directory).grep(/part/)]).to eq([first.manifest_name, []])
        end
        File.truncate(File.join(directory, first.written.keys.first), 3)
        expect(replica.current?(first.manifest_name)).to be(false)
        take(first)
        expect(counted(current)).to eq(counted(first))
      end
      ["../CURRENT", "generation-1-ab.json/..", ""].each { |name| expect { take(first, name) }.to raise_error(Estrel::Ledger::Damaged) }
    end
  end

  # Read in a microsecond of the day, when the store held so much.
  def read(microsecond, events, erasures = 0)
    path = File.join(@directory, "read-#{microsecond}-#{events}-#{erasures}") # rubocop:disable RSpec/InstanceVariable -- made around the example
    population.write(path, facts: { "read_at" => "2026-05-01T10:00:00.00000#{microsecond}Z", "marks" => { "events" => events, "erasures" => erasures } })
    Estrel::Ledger.new(path).current
  end

  it "leaves alone what was read before what it has and holds less, whichever clock is wrong, unless what it has is damaged" do
    newer, *older = [read(2, 9), read(1, 8), read(1, 9), read(1, 8, 1), read(3, 7)]
    taken = older.map do |ledger|
      take(newer)
      [take(ledger), current.manifest_name]
    end
    expect(taken).to eq([[nil, newer.manifest_name], *older.drop(1).map { |ledger| [ledger.manifest_name] * 2 }])
    take(newer)
    File.truncate(File.join(directory, newer.written.keys.first), 3)
    expect([take(older.first), current.manifest_name]).to eq([older.first.manifest_name] * 2)
  end

  it "forgets what was built here beside it" do
    with_ledger(population) do |other|
      3.times { population.write(directory) }
      take(other)
      expect(Dir.children(directory).grep(Estrel::Ledger::Generation::MANIFEST)).to eq([other.manifest_name])
    end
  end
end
