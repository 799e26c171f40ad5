# frozen_string_literal: true

# Made-up histories in which it is known what does what, to see how often a verdict is wrong. Riders ride by chance, each
# at a rate of her own; on days of a ride some buy a pass. All follows from the seed.
class MadeUp < Population
  RULES = Estrel::Lifecycle::RuleSet.new(activity: ["ride_ended"], new_for: 7, active_within: 14, churned_after: 30)
  FIRST = Date.new(2026, 1, 1)
  DAY = 86_400 * Estrel::Calendar::MICROS
  NOON = DAY / 2

  # people: how many; days: of history; gain: how much more often somebody rides a day after having bought; buys: the
  # chance to buy on a day of a ride; leaves: the chance a day to ride no more; season: by how much the rate swings up
  # and down over 90 days; late: the share who come later than on the first day.
  def self.riders(seed, people: 1500, days: 90, gain: 0.0, buys: 0.03, leaves: 0.0, season: 0.0, late: 0.3)
    random = Random.new(seed)
    seen = {}
    rides = [[], []]
    bought = [[], []]
    (1..people).each do |id|
      rate = 0.03 + (0.5 * (random.rand**2))
      from = random.rand < late ? random.rand(days) : 0
      seen[id] = from
      pass = nil
      from.upto(days - 1) do |day|
        break if random.rand < leaves

        chance = ((rate * (1 + (season * Math.sin(2 * Math::PI * day / 90)))) + (pass && pass < day ? gain : 0)).clamp(0, 1)
        next if random.rand >= chance

        rides.zip([id, day]) { |list, one| list << one }
        next if pass || random.rand >= buys

        pass = day
        bought.zip([id, day]) { |list, one| list << one }
      end
    end
    new(seen, { "ride_ended" => rides, "pass_bought" => bought })
  end

  # Days on which people ride from the first day on, each at a rate of her own.
  def self.ride_days(random, people:, days: 90)
    Array.new(people) do
      rate = 0.03 + (0.5 * (random.rand**2))
      (0...days).select { random.rand < rate }
    end
  end

  # A plan that exports every five days whoever has not ridden for a week and was neither messaged nor held back within
  # twenty days; for a week after, those exported ride more often by `gain`.
  def self.plan(seed, gain: 0.0, people: 1200) = Plan.new(Random.new(seed), gain, people)

  # The population, the runs, and by how much the share who ride within the days differs in truth.
  class Plan
    DAYS = 7
    RUNS = (20..70).step(7).to_a.freeze
    HELD = 0.2

    attr_reader :population, :runs, :truth

    def initialize(random, gain, people)
      @chances = Array.new(people) { Array.new(90) { random.rand } }
      @rates = Array.new(people) { 0.01 + (0.3 * (random.rand**2)) }
      @held = Array.new(people) { random.rand < HELD }
      @gain = gain
      @rode = Array.new(people) { [] }
      @reached = Array.new(people) { [] }
      @runs = []
      (0...90).each { |day| go_through(day) }
      @population = MadeUp.new((1..people).to_h { |id| [id, 0] }, { "ride_ended" => events })
      @truth = true_difference
    end

    private

    def go_through(day)
      @rates.each_index do |person|
        messaged = !@held[person] && @reached[person].any? { |run| day > run && day <= run + DAYS }
        @rode[person] << day if @chances[person][day] < @rates[person] + (messaged ? @gain : 0)
      end
      export(day) if RUNS.include?(day)
    end

    def export(day)
      who = @rates.each_index.select { |person| @rode[person].none? { |ride| ride > day - 7 } && @reached[person].none? { |run| run > day - 20 } }
      who.each { |person| @reached[person] << day }
      exported, holdout = [false, true].map { |held| Polars::Series.new("profile_id", who.select { |person| @held[person] == held }.map { |person| person + 1 }, dtype: Polars::Int64) }
      at = ((Estrel::Calendar.number(FIRST) + day) * DAY) + (DAY * 3 / 4)
      @runs << Estrel::Analyses::Stored::Run.new(id: @runs.size + 1, as_of: MadeUp.date(day - 1), at: at, exported: exported, holdout: holdout, planned: HELD, channel: "email")
    end

    def events = @rode.each_with_index.flat_map { |days, person| days.map { |day| [person + 1, day] } }.transpose

    # Of everybody who was reached, from her first run on, with the same chances: riding more often or not.
    def true_difference
      first = @reached.each_with_index.filter_map { |runs, person| [person, runs.first] if runs.any? }
      shares = [@gain, 0].map do |more|
        first.count { |person, run| ((run + 1)..(run + DAYS)).any? { |day| @chances[person][day] < @rates[person] + more } }.fdiv(first.size)
      end
      shares[0] - shares[1]
    end
  end

  # seen: `{ id => day }`; events: `{ type => [ids, days, { property => numbers }] }`, days counted from {FIRST}.
  def initialize(seen, events, time_zone: "UTC")
    types = events.transform_values { |_, _, numbers| (numbers || {}).transform_values { "number" } }
    super(seen.transform_values { { events: [], attributes: [] } }, event_types: types, time_zone: time_zone)
    @seen = seen
    @events = events
  end

  # The day, as a date.
  def self.date(day) = FIRST + day

  private

  def at(day) = (Estrel::Calendar.number(FIRST) + day) * DAY

  def events_frame(type)
    ids, days, numbers = @events.fetch(type.name)
    times = days.each_with_index.map { |day, row| at(day) + NOON + row }
    columns = { "profile_id" => ids, "occurred_at" => times, "received_at" => times,
                "event_id" => (1..ids.size).map { |row| (type.id * 100_000_000) + row }, "source_id" => [1] * ids.size,
                "device" => [nil] * ids.size }
    (numbers || {}).each { |name, values| columns[Estrel::Ledger::Layout.property(name)] = values }
    Polars::DataFrame.new(columns, schema_overrides: overrides(columns, type))
  end

  def numbered = []

  def profiles_frame
    columns = { "profile_id" => @seen.keys, "profile_type" => ["customer"] * @seen.size, "first_seen_at" => @seen.values.map { |day| at(day) } }
    Polars::DataFrame.new(columns, schema_overrides: Estrel::Ledger::Layout::PROFILE_COLUMNS.slice(*columns.keys))
  end
end
