# frozen_string_literal: true

# A ledger with a tail, or in pieces, or both, reads as one that was written whole, whatever is made of it. How it answers is looked at with
# everything else that is held against the reference.
RSpec.describe Estrel::Ledger::WithTail do
  def frames(ledger)
    types = ledger.catalogue.event_types.keys
    %i[profiles attribute_history reach spine].to_h { |name| [name, ledger.public_send(name).rows] }
                                              .merge(origins: ledger.origins.rows.sort, ids: ledger.ids.to_a, size: ledger.base_size,
                                                     scanned: types.map { |type| ledger.scan(type).collect.sort("event_id").rows },
                                                     events: types.map { |type| ledger.events(type).rows }, people: types.map { |type| ledger.people_of(type) },
                                                     plan: ledger.current_attribute("plan")&.to_a)
  end

  # Ways to read some of a ledger, or as it was known.
  def made_of(ledger, date)
    limited = ledger.without_personal({ "ride_ended" => ["km"] }, ["born"])
    ids = ledger.ids.filter(Polars::Series.new("picked", ledger.ids.to_a.map(&:even?)))
    [ledger, ledger.received_by(date), limited, limited.received_by(date), ledger.picked(ids), ledger.slice(3..7), ledger.slice(3..7).picked(ids.head(4))]
  end

  # Everything of some parts, put together.
  def together(parts)
    found = parts.map { |part| frames(part) }
    { events: found.map { |one| one[:events] }.transpose.map { |rows| rows.flatten(1) }, **%i[profiles reach spine].to_h { |name| [name, found.flat_map { |one| one[name] }] } }
  end

  # Which differ, since whole ledgers are long to look at.
  def differing(one, other) = one.zip(other).map { |left, right| left.keys.reject { |name| left[name] == right[name] } }.flatten

  seeds = Checks.seeds(4)
  seeds.each do |seed|
    it "reads as if it had been written whole, and is found again by what refers to it (seed #{seed})" do
      random = RandomPopulation.new(seed)
      population = random.population
      date = random.date
      whole = with_ledger(population) { |ledger| made_of(ledger, date).map { |one| frames(one) } }
      [8, 16, 24].each do |kind|
        with_ledger(population, tail: kind) do |ledger|
          made = made_of(ledger, date)
          expect(differing(made.map { |one| frames(one) }, whole)).to be_empty
          counts = [3, 7].map { |count| ledger.part_count(count, 1_000) }
          made.first(4).zip(whole).each { |one, as_whole| expect(differing(counts.map { |count| together(one.parts(count)) }, [as_whole] * 2)).to be_empty }
          elsewhere = Estrel::Ledger.new(ledger.directory)
          expect(differing(made.first(4).map { |one| frames(elsewhere.referred(one.reference)) }, whole.first(4))).to be_empty
        end
      end
    end
  end

  it "keeps what is known of the base when the tail is another" do
    with_ledger(RandomPopulation.new(1).population, tail: 8) do |first|
      opened = Estrel::Ledger.new(first.directory)
      base = opened.current.base
      base.cache.fetch([:known]) { first.number }
      writer = Estrel::Ledger::Writer.new(first.directory, calendar: first.calendar, carry_over: first.tail)
      writer.put_touched(base, first.touched)
      writer.commit(catalogue: first.catalogue, facts: first.facts)
      expect(opened.current.tail.manifest_name).not_to eq(first.tail.manifest_name)
      expect(opened.current.base.cache.fetch([:known]) { raise "forgotten" }).to eq(first.number)
    end
  end

  it "has a shelf for each base, on which every process finds what another has answered, until the base goes" do
    population = RandomPopulation.new(1).population
    with_ledger(population, tail: 8) do |ledger|
      shelf = ledger.base.shelf
      expect(shelf.fetch([:asked, 1]) { { "a" => [1, nil] } }).to eq("a" => [1, nil])
      elsewhere = Estrel::Ledger.new(ledger.directory, shelves: true).current.base.shelf
      expect(elsewhere.fetch([:asked, 1]) { raise "asked again" }).to eq("a" => [1, nil])
      expect([0.5, 0.25].map { |number| shelf.fetch([:asked, 2]) { number } }).to eq([0.5, 0.25])
      path = Dir.glob(File.join(ledger.directory, "shelf-*", "*")).first
      File.binwrite(path, File.binread(path)[0..4])
      expect(elsewhere.fetch([:asked, 1]) { [7] }).to eq([7])
      stub_const("Estrel::EDITION", "another")
      expect(shelf.fetch([:asked, 1]) { { "b" => 2 } }).to eq("b" => 2)
      Estrel::Ledger::Directory::GENERATIONS_KEPT.times { population.write(ledger.directory) }
      expect(Dir.glob(File.join(ledger.directory, "shelf-*"))).to be_empty
    end
  end
end
