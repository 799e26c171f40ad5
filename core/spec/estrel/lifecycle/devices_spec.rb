# frozen_string_literal: true

# Devices told part by part, and renewed for some people, against plain Ruby.
RSpec.describe Estrel::Lifecycle::Devices do
  seeds = Checks.seeds(6)

  # Person, device and day of some activity, in the order of the ledger.
  def activity(random, people)
    people.flat_map { |person| Array.new(random.rand(6)) { [person, random.rand(3).zero? ? random.rand(4) : (person * 10) + random.rand(2), random.rand(20)] } }
  end

  def frame(rows) = Polars::DataFrame.new({ "profile_id" => rows.map(&:first), "device" => rows.map { |row| row[1] }, "day" => rows.map(&:last) })

  def added(list) = list.reduce { |one, other| Estrel::Analyses::Sum.of(one, other) }

  # The rows of three parts, of some people as they were, and of these as they are.
  def asked(parts, was, is)
    Estrel::Analyses::Sum.renewed(added(parts.map { |rows| yield(frame(rows)) }), yield(frame(was)), yield(frame(is)))
  end

  def used_by_several(rows) = rows.group_by { |row| row[1] }.select { |_, own| own.map(&:first).uniq.size > 1 }.keys

  def gaps(rows) = Estrel::Lifecycle::Gaps.of_devices(frame(rows)).frame.rows.sort

  seeds.each do |seed|
    it "knows which several people use or used, and counts the days of each once (seed #{seed})" do
      random = Random.new(seed)
      parts = [1..8, 9..16, 17..24].map { |people| activity(random, people) }
      touched = (1..24).to_a.sample(7, random: random).sort
      was = parts.flatten(1).select { |row| touched.include?(row.first) }
      is = activity(random, touched)
      now = parts.flatten(1) - was + is
      devices = asked(parts, was, is) { |rows| described_class.of(rows) }
      shared = devices.shared.to_a
      expect(shared).to eq([parts.flatten(1), now].flat_map { |rows| used_by_several(rows) }.uniq.sort)
      expect(Estrel::Transit.load(Estrel::Transit.dump(devices)).shared.to_a).to eq(shared)

      here = Polars.col("device").is_in(shared)
      own = asked(parts, was, is) { |rows| Estrel::Lifecycle::Gaps.of_devices(rows) - Estrel::Lifecycle::Gaps.of_devices(rows.filter(here)) }
      together = asked(parts, was, is) { |rows| Estrel::Analyses::Sum::Rows.of(rows.filter(here).select(%w[device day])) }
      expect((own + Estrel::Lifecycle::Gaps.of_devices(together.frame)).frame.rows.sort).to eq(gaps(now))
    end
  end
end
