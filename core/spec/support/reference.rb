# frozen_string_literal: true

# The rules in the plainest Ruby there is, one person at a time. Slow on purpose: this is the definition of correct,
# and the fast path must agree with it exactly.
class Reference
  STATES = %w[unseen new active dormant churned].freeze

  def initialize(population, policy)
    @population = population
    @policy = policy
    @zone = TZInfo::Timezone.get(population.time_zone)
  end

  def day(time)
    local = @zone.to_local(time.getutc)
    Date.new(local.year, local.month, local.day)
  end

  def state(person, date)
    days = activity_days(person, date)
    return "unseen" if days.empty?

    quiet = (date - days.last).to_i
    return "churned" if quiet >= @policy.churned_after
    return "dormant" if quiet >= @policy.active_within

    (date - days.first).to_i < @policy.new_for ? "new" : "active"
  end

  # New or active, and the spell that holds now began less than A days ago, after a day at whose end she was dormant
  # or churned.
  def returned?(person, date)
    return false unless %w[new active].include?(state(person, date))

    spell = date
    spell -= 1 while %w[new active].include?(state(person, spell - 1))
    (date - spell).to_i < @policy.active_within && %w[dormant churned].include?(state(person, spell - 1))
  end

  def exists?(person, date)
    (person[:events] + person[:attributes]).any? { |row| day(row[:at]) <= date }
  end

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
    when "attribute" then attribute?(body, person, date)
    when "did" then did?(body, person, date)
    when "lifecycle" then body["is"].include?(state(person, date))
    end
  end

  private

  def activity_days(person, date)
    person[:events].select { |row| @policy.activity.include?(row[:type]) }.map { |row| day(row[:at]) }
                   .select { |day| day <= date }.sort
  end

  def attribute?(body, person, date)
    rows = person[:attributes].select { |row| row[:name] == body["name"] && day(row[:at]) <= date }
    return compare?(body, rows.max_by { |row| row[:at] }&.fetch(:value)) unless body["ever"]

    rows.empty? ? compare?(body, nil) : rows.any? { |row| compare?(body, row[:value]) }
  end

  def did?(body, person, date)
    found = person[:events].count do |row|
      row[:type] == body["event"] && within?(body["window"], day(row[:at]), date) &&
        (body["where"] || []).all? { |filter| compare?(filter, row[filter["property"].to_sym]) }
    end
    counted?(body["count"], found)
  end

  def within?(window, day, date)
    return false if day > date
    return day > date - window["last_days"] if window&.key?("last_days")
    return day.between?(Date.parse(window["from"]), Date.parse(window["to"])) if window&.key?("from")

    true
  end

  def counted?(count, found)
    kind, wanted = (count || { "at_least" => 1 }).first
    { "at_least" => -> { found >= wanted }, "at_most" => -> { found <= wanted }, "exactly" => -> { found == wanted },
      "between" => -> { found.between?(*wanted) } }.fetch(kind).call
  end

  def compare?(body, value)
    operator, wanted = body.values_at("compare", "value")
    return %w[is_not_set is_not does_not_contain].include?(operator) if value.nil?

    wanted = Date.parse(wanted) if value.is_a?(Date) && wanted
    if body["ignore_case"]
      value = value.is_a?(Array) ? value.map(&:downcase) : value.downcase
      wanted = wanted.downcase
    end
    { "is" => -> { value == wanted }, "is_not" => -> { value != wanted },
      "contains" => -> { value.include?(wanted) }, "does_not_contain" => -> { !value.include?(wanted) },
      "before" => -> { value < wanted }, "after" => -> { value > wanted }, "greater" => -> { value > wanted }, "at_least" => -> { value >= wanted }, "less" => -> { value < wanted },
      "at_most" => -> { value <= wanted }, "is_set" => -> { true }, "is_not_set" => -> { false } }
      .fetch(operator).call
  end
end
