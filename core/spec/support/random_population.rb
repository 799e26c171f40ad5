# frozen_string_literal: true

# Random histories and random definitions from a seed: few people, few days, many edges (midnights, daylight-saving
# days, equal timestamps, missing values).
class RandomPopulation
  ZONES = ["UTC", "Europe/Berlin", "America/New_York", "Pacific/Auckland"].freeze
  PLANS = ["monthly", "pay as you go", "Monthly", ""].freeze
  # Holds the autumn clock change of Berlin and New York and the spring one of Auckland's neighbourhood.
  START = Time.utc(2025, 9, 20)
  DAYS = 60
  EVENT_TYPES = { "ride_ended" => { "km" => "number", "dock" => "text", "night" => "boolean" },
                  "pass_bought" => { "price" => "number" } }.freeze
  ATTRIBUTES = { "plan" => "text", "age" => "number", "opted_in" => "boolean", "born" => "date", "tags" => "list" }.freeze
  DATES = [Date.new(1990, 2, 28), Date.new(2000, 2, 29), Date.new(2000, 3, 1)].freeze

  def initialize(seed)
    @random = Random.new(seed)
  end

  def population
    Population.new((1..12).to_h { |id| [id * 3, person] }, time_zone: pick(ZONES), event_types: EVENT_TYPES,
                                                           attributes: ATTRIBUTES)
  end

  def policy
    within = 1 + @random.rand(12)
    Estrel::Lifecycle::Policy.new(activity: EVENT_TYPES.keys.sample(1 + @random.rand(2), random: @random),
                                  new_for: 1 + @random.rand(20), active_within: within,
                                  churned_after: within + 1 + @random.rand(20))
  end

  def date = (START + (@random.rand(DAYS + 20) * 86_400)).to_date

  def definition(depth = 3)
    kind = pick(depth.zero? ? %w[attribute did lifecycle] : %w[all any not attribute did did lifecycle])
    case kind
    when "all", "any" then { kind => Array.new(@random.rand(4)) { definition(depth - 1) } }
    when "not" then { "not" => definition(depth - 1) }
    when "attribute"
      { "attribute" => { "name" => (name = pick(ATTRIBUTES.keys)), **compare(ATTRIBUTES[name]),
                         **pick([{}, { "ever" => true }]) } }
    when "did" then { "did" => did }
    when "lifecycle" then { "lifecycle" => { "is" => Reference::STATES.sample(1 + @random.rand(3), random: @random) } }
    end
  end

  private

  def pick(list) = list[@random.rand(list.size)]

  def person
    events = Array.new(@random.rand(10)) { event }
    attributes = Array.new(@random.rand(4) + (events.empty? ? 1 : 0)) { attribute }
    { events: events, attributes: attributes.uniq { |row| row.values_at(:name, :at) } }
  end

  # Half of the instants lie exactly on, just before or just after a full hour, where days begin in some zone.
  def instant
    hours = START + (@random.rand(DAYS * 24) * 3600)
    hours + (@random.rand < 0.5 ? pick([0, 0, Rational(-1, 1_000_000), Rational(1, 1_000_000)]) : @random.rand(3600))
  end

  def event
    type = pick(EVENT_TYPES.keys)
    properties = EVENT_TYPES[type].to_h { |name, kind| [name.to_sym, @random.rand < 0.2 ? nil : value(kind)] }
    { type: type, at: instant, **properties }
  end

  def attribute
    name = pick(ATTRIBUTES.keys)
    { name: name, at: instant, value: @random.rand < 0.1 ? nil : value(ATTRIBUTES[name]) }
  end

  def value(type)
    { "text" => -> { pick(PLANS) }, "number" => -> { @random.rand(8) / 2.0 }, "boolean" => -> { pick([true, false]) },
      "date" => -> { pick(DATES) }, "list" => -> { Array.new(@random.rand(3)) { pick(PLANS) } } }
      .fetch(type).call
  end

  def compare(type)
    operator = pick(Estrel::Audience::Comparison::FOR_TYPE.fetch(type))
    return { "compare" => operator } if %w[is_set is_not_set].include?(operator)

    wanted = type == "list" ? pick(PLANS) : value(type)
    { "compare" => operator, "value" => wanted.is_a?(Date) ? wanted.iso8601 : wanted,
      **(%w[text list].include?(type) ? { "ignore_case" => pick([true, false]) } : {}) }
  end

  def did
    type = pick(EVENT_TYPES.keys)
    filters = Array.new(@random.rand(3)) do
      property = pick(EVENT_TYPES[type].keys)
      { "property" => property, **compare(EVENT_TYPES[type][property]) }
    end
    { "event" => type, "where" => filters, "count" => count, "window" => window }
  end

  def count
    low = @random.rand(3)
    pick([{ "at_least" => low + 1 }, { "at_most" => low }, { "exactly" => low },
          { "between" => [low, low + @random.rand(3)] }])
  end

  def window
    from = date
    pick([{ "ever" => true }, { "last_days" => 1 + @random.rand(40) },
          { "from" => from.iso8601, "to" => (from + @random.rand(20)).iso8601 }])
  end
end
