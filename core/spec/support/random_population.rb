# frozen_string_literal: true

require_relative "random_visits"

# Random histories and random definitions from a seed: few people, few days, many edges (midnights, daylight-saving
# days, equal timestamps, missing values).
class RandomPopulation
  include RandomVisits

  ZONES = ["UTC", "Europe/Berlin", "America/New_York", "Pacific/Auckland"].freeze
  PLANS = ["monthly", "pay as you go", "Monthly", ""].freeze
  # Holds the autumn clock change of Berlin and New York and the spring one of Auckland's neighbourhood.
  START = Time.utc(2025, 9, 20)
  DAYS = 60
  DEEDS = { "ride_ended" => { "km" => "number", "dock" => "text", "night" => "boolean" },
            "pass_bought" => { "price" => "number" } }.freeze
  EVENT_TYPES = { **DEEDS, **%w[received opened clicked unsubscribed].to_h { |kind| ["message_#{kind}", { "campaign" => "text", "channel" => "text" }] } }.freeze
  SYSTEM = %w[message_received message_unsubscribed].freeze
  CAMPAIGNS = %w[spring letter].freeze
  ATTRIBUTES = { "plan" => "text", "age" => "number", "opted_in" => "boolean", "born" => "date", "tags" => "list" }.freeze
  DATES = [Date.new(1990, 2, 28), Date.new(2000, 2, 29), Date.new(2000, 3, 1)].freeze

  def initialize(seed)
    @random = Random.new(seed)
  end

  def population
    Population.new((1..12).to_h { |id| [id * 3, person] }, time_zone: pick(ZONES), event_types: EVENT_TYPES,
                                                           attributes: ATTRIBUTES, system: SYSTEM)
  end

  def rule_set
    within = 1 + @random.rand(12)
    Estrel::Lifecycle::RuleSet.new(activity: DEEDS.keys.sample(1 + @random.rand(2), random: @random),
                                   new_for: 1 + @random.rand(20), active_within: within,
                                   churned_after: within + 1 + @random.rand(20))
  end

  def date = (START + (@random.rand(DAYS + 20) * 86_400)).to_date

  CONDITIONS = %w[attribute did did did lifecycle first last rhythm visit visited visited order order changed profile_type seen reachable chance campaign campaign audience].freeze
  PROFILE_TYPES = %w[visitor contact customer].freeze
  ADDRESSES = { "email" => ["a@example.org", "no address", "b.c@mail.example.org", "a@b"], "sms" => ["+351 900 000 001", "12"] }.freeze

  # Two definitions that others can refer to.
  def audiences = [1, 2].to_h { |id| [id, definition(1, CONDITIONS - ["audience"])] }

  def definition(depth = 3, conditions = CONDITIONS)
    kind = pick(depth.zero? ? conditions : %w[all any not] + conditions)
    case kind
    when "all", "any" then { kind => Array.new(@random.rand(4)) { definition(depth - 1, conditions) } }
    when "not" then { "not" => definition(depth - 1, conditions) }
    else { kind => send(:"#{kind}_condition") }
    end
  end

  private

  def pick(list) = list[@random.rand(list.size)]

  def person
    events = Array.new(@random.rand(10)) { event } + Array.new(@random.rand(3)) { message }.flatten
    # Some follow others closely, or happen at the very same instant.
    events += events.sample(4, random: @random).map { |row| event.merge(at: row[:at] + pick([0, 60, 1800, 1801, 7200])) }
    events = as_two(events) if @random.rand < 0.3
    attributes = Array.new(@random.rand(4) + (events.empty? ? 1 : 0)) { attribute }
    reach = Array.new(@random.rand(4)) { reach_fact }.uniq { |row| row.values_at(:channel, :at) }
    { events: events, attributes: attributes.uniq { |row| row.values_at(:name, :at) }, reach: reach, profile_type: pick(PROFILE_TYPES) }
  end

  def reach_fact
    channel = pick(Reference::CHANNELS)
    fact = ADDRESSES.key?(channel) && @random.rand < 0.6 ? { address: pick(ADDRESSES[channel]) } : { given: pick([true, false]) }
    { channel: channel, at: instant, received: later, **fact }
  end

  def later = @random.rand < 0.7 ? nil : START + (@random.rand(DAYS + 20) * 86_400)

  # Half of the instants lie exactly on, just before or just after a full hour, where days begin in some zone.
  def instant
    hours = START + (@random.rand(DAYS * 24) * 3600)
    hours + (@random.rand < 0.5 ? pick([0, 0, Rational(-1, 1_000_000), Rational(1, 1_000_000)]) : @random.rand(3600))
  end

  def event(type = pick(DEEDS.keys))
    properties = EVENT_TYPES[type].to_h { |name, kind| [name.to_sym, @random.rand < 0.2 ? nil : property(name, kind)] }
    { type: type, at: instant, received: later, device: pick([nil, 1, 2, 3, 900]), **properties }
  end

  # A message, and maybe what came of it, once or more.
  def message
    sent = event("message_received")
    came = %w[opened clicked unsubscribed].select { @random.rand < 0.4 }
    [sent, *came.map { |kind| event("message_#{kind}").merge(sent.slice(:campaign), at: sent[:at] + pick([0, 60, 86_400, 900_000])) }]
  end

  # Some of what a few did was done as somebody else, who turned out to be the same person.
  def as_two(events)
    other = { of: (@others = (@others || 1000) + 1), linked: instant }
    events.map { |event| @random.rand < 0.5 ? event.merge(other) : event }
  end

  def attribute
    name = pick(ATTRIBUTES.keys)
    { name: name, at: instant, received: later, value: @random.rand < 0.1 ? nil : value(ATTRIBUTES[name]) }
  end

  def property(name, type) = { "campaign" => CAMPAIGNS, "channel" => Reference::CHANNELS }[name]&.then { |list| pick(list) } || value(type)

  def value(type)
    { "text" => -> { pick(PLANS) }, "number" => -> { @random.rand(8) / 2.0 }, "boolean" => -> { pick([true, false]) },
      "date" => -> { pick(DATES) }, "list" => -> { Array.new(@random.rand(3)) { pick(PLANS) } } }
      .fetch(type).call
  end

  def maybe(key, value) = @random.rand < 0.4 ? { key => value } : {}

  def attribute_condition
    { "name" => (name = pick(ATTRIBUTES.keys)), **compare(ATTRIBUTES[name]), **pick([{}, { "ever" => true }, { "on" => date.iso8601 }]) }
  end

  def changed_condition
    type = ATTRIBUTES[name = pick(ATTRIBUTES.keys)]
    { "name" => name, "window" => window, **maybe("from", compare(type)), **maybe("to", compare(type)) }
  end

  def chance_condition
    model = { "of" => pick(Estrel::Propensity::KINDS), "within_days" => 1 + @random.rand(40), "learned_until" => date.iso8601, "intercept" => @random.rand - 0.5,
              "weights" => Estrel::Propensity::Features::NAMES.transform_values { @random.rand - 0.5 }, **maybe("spend", { "event" => "pass_bought", "property" => "price" }) }
    { pick(%w[at_least below]) => @random.rand, "model" => model }
  end

  def profile_type_condition = { "is" => PROFILE_TYPES.sample(1 + @random.rand(2), random: @random) }

  def reachable_condition = { "by" => Reference::CHANNELS.sample(1 + @random.rand(2), random: @random) }

  def campaign_condition
    was = { "was" => pick(Estrel::Audience::Condition::Campaign::WAS) }
    last = Estrel::Audience::Condition::Campaign::IN_A_ROW.include?(was["was"]) ? maybe("last", 1 + @random.rand(3)) : {}
    bounds = { "at_least" => @random.rand(3) / 2.0, **maybe("less_than", 1 + @random.rand(3)) }
    asked = pick([{ **was, **last }, { **was, **last }, { "streak" => { "of" => pick(%w[current longest mean]), **bounds } }, { "share" => { "at_least" => @random.rand(3) / 4.0, **maybe("less_than", 0.75) } }])
    within = asked["was"] == "reactivated" ? maybe("within_days", 1 + @random.rand(9)) : {}
    named = pick([{}, { "name" => pick(CAMPAIGNS) }, { "without_name" => true }])
    by = pick([{}, { "channel" => pick(Reference::CHANNELS) }, { "without_channel" => true }])
    { **asked, **within, "window" => window, **named, **by,
                         **maybe("from", Reference::STATES.sample(2, random: @random)) }
  end

  def audience_condition = { "id" => pick([1, 2]), **maybe("on", date.iso8601) }

  def lifecycle_condition
    states = -> { Reference::STATES.sample(1 + @random.rand(3), random: @random) }
    time = pick([{}, { "on" => date.iso8601 }, { "for_at_least_days" => 1 + @random.rand(20) }, { "entered_last_days" => 1 + @random.rand(20) }])
    from = time.empty? || time.key?("entered_last_days") ? maybe("from", states.call) : {}
    mark = time.key?("for_at_least_days") ? {} : maybe("reactivated", pick([true, false]))
    { "is" => states.call, **time, **from, **mark, **(@random.rand < 0.3 ? { "rule_set" => { "rules" => rule_set.to_h } } : {}) }
  end

  def compare(type)
    operator = pick(Estrel::Audience::Comparison::FOR_TYPE.fetch(type))
    return { "compare" => operator } if %w[is_set is_not_set].include?(operator)

    { "compare" => operator, "value" => compared(operator, type),
      **(%w[text list].include?(type) ? { "ignore_case" => pick([true, false]) } : {}) }
  end

  def compared(operator, type)
    one = -> { type == "list" ? pick(PLANS) : value(type) }
    plain = ->(value) { value.is_a?(Date) ? value.iso8601 : value }
    case operator
    when "between" then [one.call, one.call].sort.map(&plain)
    when "one_of", "none_of" then Array.new(1 + @random.rand(2)) { plain.call(one.call) }
    else plain.call(one.call)
    end
  end

  def selection
    types = pick([[pick(DEEDS.keys)], [pick(DEEDS.keys)], DEEDS.keys, nil])
    properties = properties_of(types || DEEDS.keys)
    named = { nil => { "any_event" => true }, 1 => { "event" => types&.first }, 2 => { "events" => types } }
    { **named.fetch(types&.size), "where" => Array.new(@random.rand(3)) { filter(properties) } }
  end

  def properties_of(types) = types.flat_map { |type| EVENT_TYPES[type].to_a }.uniq

  def filter(properties, depth = 1)
    if depth.positive? && @random.rand < 0.25
      return { pick(%w[all any]) => Array.new(@random.rand(3)) { filter(properties, depth - 1) } }
    end

    kind = pick(%w[attribute so_far property property property property])
    so_far = [["minutes_spent", "number"], [{ "event" => "ride_ended", "property" => "km" }, "number"]]
    name, type = pick({ "attribute" => ATTRIBUTES.to_a, "so_far" => so_far, "property" => properties }.fetch(kind))
    { kind => name, **compare(type) }
  end

  def did_condition
    return { **selection, "count" => count, "window" => window } if @random.rand < 0.7

    { **selection.merge("where" => []).except("events", "any_event"), "event" => "ride_ended", "window" => window, "measure" => measure }
  end

  def measure
    if @random.rand < 0.4
      property, type = pick(EVENT_TYPES["ride_ended"].to_a)
      return { "of" => property, "take" => pick(Estrel::Audience::Measure::VALUES), **compare(type) }
    end
    compare = pick(%w[is greater at_least less at_most between])
    { "of" => "km", "take" => pick(%w[sum mean min max distinct]), "compare" => compare, "value" => compared(compare, "number") }
  end

  def first_condition
    chosen = selection
    types = [*chosen["event"], *chosen["events"]]
    { **chosen, "window" => window, **maybe("then", Array.new(1 + @random.rand(2)) { filter(properties_of(types.empty? ? DEEDS.keys : types)) }) }
  end

  alias last_condition first_condition

  def rhythm_condition
    last = 1 + @random.rand(4)
    { **selection, "times" => 1 + @random.rand(2), "each" => pick(%w[week month]), "last" => last, **maybe("in", 1 + @random.rand(last)) }
  end

  def seen_condition
    found = window
    found = window while found.key?("first_days") || found.key?("after_first_days")
    { "window" => found }
  end

  def order_condition
    steps = Array.new(2 + @random.rand(2)) do |index|
      { **selection, **maybe("window", window), **(index.zero? ? maybe("first", true) : { **how_far, **following, **maybe("same_visit", true) }) }
    end
    { "steps" => steps, "window" => window, **maybe("within", within), **maybe("then_not", { **selection, "within" => within }) }
  end

  # When a step follows.
  def how_far
    days = 2 + @random.rand(9)
    pick([{}, { "within" => within }, { "other_day" => true }, { "within" => within, "other_day" => true }, { "after" => within }, { "after" => { "hours" => @random.rand(1..40) }, "within" => { "days" => days } }])
  end

  def following = pick([{}, {}, { "next" => true }, { "next" => true, "among" => EVENT_TYPES.keys.sample(1 + @random.rand(2), random: @random) }])

  def within = pick([{ "minutes" => 1 + @random.rand(90) }, { "hours" => 1 + @random.rand(48) }, { "days" => 1 + @random.rand(15) }])

  def count
    low = @random.rand(3)
    number = pick([{ "at_least" => low + 1 }, { "at_most" => low }, { "exactly" => low },
                   { "between" => [low, low + @random.rand(3)] }])
    { **number, **maybe("of", pick(%w[events days weeks visits])) }
  end

  def window
    from = date
    range = pick([{ "ever" => true }, { "last_days" => 1 + @random.rand(40) }, { "last_hours" => 1 + @random.rand(900) },
                  { "first_days" => 1 + @random.rand(20) }, { "after_first_days" => 1 + @random.rand(9), **maybe("first_days", 10 + @random.rand(20)) }, { "from" => from.iso8601 }, { "to" => from.iso8601 },
                  { "from" => from.iso8601, "to" => (from + @random.rand(20)).iso8601 }])
    clock = @random.rand < 0.2 ? { "weekdays" => (1..7).to_a.sample(1 + @random.rand(5), random: @random) } : {}
    { **range, **clock, **(@random.rand < 0.2 ? { "hours" => [@random.rand(24), 1 + @random.rand(24)] } : {}) }
  end
end
