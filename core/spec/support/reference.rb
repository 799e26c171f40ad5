# frozen_string_literal: true

require_relative "reference_campaigns"
require_relative "reference_events"
require_relative "reference_exports"
require_relative "reference_lifecycle"
require_relative "reference_propensity"
require_relative "reference_so_far"

# The rules in the plainest Ruby there is, one person at a time. Slow on purpose: this is the definition of correct,
# and the fast path must agree with it exactly.
class Reference
  include ReferenceCampaigns
  include ReferenceEvents
  include ReferenceLifecycle
  include ReferenceExports
  include ReferencePropensity
  include ReferenceSoFar

  STATES = %w[never_active new active dormant churned].freeze
  VISIT_GAP = 30 * 60
  CHANNELS = %w[email sms push].freeze
  VALID = { "email" => ["a@example.org", "b.c@mail.example.org"], "sms" => ["+351 900 000 001"] }.freeze

  def initialize(population, rule_set, audiences = {})
    @population = population
    @rule_set = rule_set
    @audiences = audiences
    @zone = TZInfo::Timezone.get(population.time_zone)
  end

  def local(time) = @zone.to_local(time.getutc)

  # What an old store holds from before 1970 counts as of its first day.
  def day(time) = local(time).then { |local| [Date.new(local.year, local.month, local.day), Date.new(1970)].max }

  def state(person, date)
    days = activity_days(person, date)
    return "never_active" if days.empty?

    inactive = (date - days.last).to_i
    return "churned" if inactive >= @rule_set.churned_after
    return "dormant" if inactive >= @rule_set.active_within

    (date - days.first).to_i < @rule_set.new_for ? "new" : "active"
  end

  # New or active, and the spell that holds now began less than A days ago, after a day at whose end she was dormant
  # or churned.
  def reactivated?(person, date)
    return false unless %w[new active].include?(state(person, date))

    spell = date
    spell -= 1 while %w[new active].include?(state(person, spell - 1))
    (date - spell).to_i < @rule_set.active_within && %w[dormant churned].include?(state(person, spell - 1))
  end

  def exists?(person, date) = known(person).any? { |row| day(row[:at]) <= date }

  def known(person) = [*person[:events], *person[:attributes], *person[:reach]]

  def first_seen(person) = known(person).map { |row| day(row[:at]) }.min

  def counts(date)
    here = @population.people.values.select { |person| exists?(person, date) }
    STATES.to_h { |name| [name, here.count { |person| state(person, date) == name }] }
  end

  def members(definition, date)
    @population.people.select { |_, person| exists?(person, date) && fits?(definition, person, date) }.keys.sort
  end

  def fits?(node, person, date)
    kind, body = node.first
    case kind
    when "all" then body.all? { |child| fits?(child, person, date) }
    when "any" then body.any? { |child| fits?(child, person, date) }
    when "not" then !fits?(body, person, date)
    when "first", "last" then moment?(kind, body, person, date)
    else send(:"#{kind}?", body, person, date)
    end
  end

  private

  def activity_days(person, date)
    person[:events].select { |row| @rule_set.event_types.include?(row[:type]) }.map { |row| day(row[:at]) }
                   .select { |day| day <= date }.sort
  end

  def seen?(body, person, date) = within?(body["window"], known(person).map { |row| row[:at] }.min, person, date)

  def profile_type?(body, person, _date) = body["is"].include?(person[:profile_type])

  def audience?(body, person, date)
    on = [body["on"] && Date.parse(body["on"]), date].compact.min
    (body["on"].nil? || exists?(person, on)) && fits?(@audiences.fetch(body["id"]), person, on)
  end

  def reachable?(body, person, date)
    body["by"].any? do |channel|
      rows = person[:reach].select { |row| row[:channel] == channel && day(row[:at]) <= date }.sort_by { |row| row[:at] }
      word = rows.reject { |row| row[:given].nil? }.last&.fetch(:given)
      channel == "push" ? word == true : word != false && rows.any? { |row| VALID[channel].include?(row[:address]) }
    end
  end

  def lifecycle?(body, person, date)
    rules = body.dig("rule_set", "rules")
    return under(rules).fits?({ "lifecycle" => body.except("rule_set") }, person, date) if rules

    days, span = body.values_at("entered_last_days", "for_at_least_days")
    return (0..span).all? { |ago| body["is"].include?(state(person, date - ago)) } if span
    return (0...days).any? { |ago| entered?(body, person, date - ago) } if days
    return came?(body, person, date) if body["from"]

    on = [body["on"] && Date.parse(body["on"]), date].compact.min
    (body["on"].nil? || exists?(person, on)) && body["is"].include?(state(person, on)) && marked?(body, person, on)
  end

  def marked?(body, person, date) = body["reactivated"].nil? || body["reactivated"] == reactivated?(person, date)

  def under(rules) = self.class.new(@population, Estrel::Lifecycle::RuleSet.new(**rules.transform_keys(&:to_sym)), @audiences)

  def entered?(body, person, day)
    before = state(person, day - 1)
    body["is"].include?(state(person, day)) && !body["is"].include?(before) && (body["from"].nil? || body["from"].include?(before)) &&
      marked?(body, person, day - 1)
  end

  # The state of the date, followed back to the one before it.
  def came?(body, person, date)
    state = state(person, date)
    return false if state == "never_active" || !body["is"].include?(state)

    eve = date
    eve -= 1 while state(person, eve) == state
    body["from"].include?(state(person, eve)) && marked?(body, person, eve)
  end

  def values(person, name, date)
    person[:attributes].select { |row| row[:name] == name && day(row[:at]) <= date }.sort_by { |row| row[:at] }
  end

  def attribute?(body, person, date)
    on = [body["on"] && Date.parse(body["on"]), date].compact.min
    return false if body["on"] && !exists?(person, on)

    rows = values(person, body["name"], on)
    return compare?(body, rows.last&.fetch(:value)) unless body["ever"]

    rows.empty? ? compare?(body, nil) : rows.any? { |row| compare?(body, row[:value]) }
  end

  def changed?(body, person, date)
    [nil, *values(person, body["name"], date)].each_cons(2).any? do |before, row|
      was = before&.fetch(:value)
      was != row[:value] && within?(body["window"], row[:at], person, date) &&
        (body["from"].nil? || compare?(body["from"], was)) && (body["to"].nil? || compare?(body["to"], row[:value]))
    end
  end

  def compare?(body, value)
    operator, wanted = body.values_at("compare", "value")
    return %w[is_not_set is_not does_not_contain none_of].include?(operator) if value.nil?
    return operator == "is_set" if %w[is_set is_not_set].include?(operator)

    wanted = parsed(wanted, value)
    value, wanted = [value, wanted].map { |one| lower(one) } if body["ignore_case"]
    satisfied?(operator, value, wanted)
  end

  def parsed(wanted, value)
    return wanted unless value.is_a?(Date)

    wanted.is_a?(Array) ? wanted.map { |text| Date.parse(text) } : Date.parse(wanted)
  end

  def lower(value) = value.is_a?(Array) ? value.map(&:downcase) : value.downcase

  def satisfied?(operator, value, wanted)
    case operator
    when "is" then value == wanted
    when "is_not" then value != wanted
    when "contains" then value.include?(wanted)
    when "does_not_contain" then !value.include?(wanted)
    when "starts_with" then value.start_with?(wanted)
    when "ends_with" then value.end_with?(wanted)
    when "one_of" then wanted.include?(value)
    when "none_of" then !wanted.include?(value)
    when "between" then value.between?(*wanted)
    when "greater", "after" then value > wanted
    when "at_least" then value >= wanted
    when "less", "before" then value < wanted
    when "at_most" then value <= wanted
    end
  end
end
