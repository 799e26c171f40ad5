# frozen_string_literal: true

# What the reference says of the chance to come back or to lapse.
module ReferencePropensity
  SENT = %w[message_received].freeze
  ANSWERED = %w[message_opened message_clicked].freeze

  # All that is known of one person at the end of a day; nothing of whom the chance is not about.
  def known_of(person, date, within, kind)
    days = activity_days(person, date).uniq.sort
    return if days.empty? || ((date - days.last).to_i >= @rule_set.active_within) != (kind == "come_back")

    inactive = (date - days.last).to_i
    rhythm = days.one? ? nil : (days.last - days.first).to_f / (days.size - 1)
    { "inactive" => log(inactive), "overdue" => rhythm ? Math.log((inactive + 1) / (rhythm + 1)) : 0.0, "once" => days.one? ? 1.0 : 0.0, "days" => log(days.size),
      "history" => log((date - days.first).to_i), "recent" => log(days.count { |day| day > date - 90 }),
      "season" => log(days.count { |day| ((date - 363)..(date - 364 + within)).cover?(day) }), "returns" => log(days.each_cons(2).count { |one, other| other - one >= @rule_set.active_within }),
      "received" => log(lately(person, date, SENT)), "answered" => log(lately(person, date, ANSWERED)), "spend" => log([spent(person, date), 0].max) }
  end

  private

  def chance?(body, person, date)
    model = body["model"]
    known = known_of(person, date, model["within_days"], model["of"]) or return false
    known["spend"] = 0.0 unless model["spend"]
    sum = model["intercept"] + known.sum { |name, value| value * model["weights"].fetch(name) }
    chance = 1 / (1 + Math.exp(-sum))
    chance >= (body["at_least"] || 0) && chance < (body["below"] || 2)
  end

  def log(number) = Math.log(number + 1.0)

  def lately(person, date, types) = person[:events].count { |row| types.include?(row[:type]) && ((date - 89)..date).cover?(day(row[:at])) }

  def spent(person, date) = person[:events].sum { |row| row[:type] == "pass_bought" && day(row[:at]) <= date ? row[:price].to_f : 0.0 }
end
