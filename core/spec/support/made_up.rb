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
