# frozen_string_literal: true

# What the reference says of conditions about events: which are meant, when, how often, in which order.
module ReferenceEvents
  private

  # The person's events up to the date that a condition means, in order.
  def selected(body, person, date, window = body["window"])
    found = person[:events].select do |row|
      named?(body, row) && within?(window, row[:at], person, date) && (body["where"] || []).all? { |filter| holds?(filter, row, person) }
    end
    found.sort_by { |row| row[:at] }
  end

  # Whether all of some filters hold for an event of a person.
  def all_hold?(filters, row, person) = filters.all? { |filter| holds?(filter, row, person) }

  def named?(body, row) = body["any_event"] || [*body["event"], *body["events"]].include?(row[:type])

  def holds?(filter, row, person)
    return filter["all"].all? { |inner| holds?(inner, row, person) } if filter["all"]
    return filter["any"].any? { |inner| holds?(inner, row, person) } if filter["any"]
    return compare?(filter, stood(person, filter["attribute"], row[:at])) if filter["attribute"]

    compare?(filter, filter["so_far"] ? so_far(person, filter["so_far"], row) : row[filter["property"].to_sym])
  end

  # What an attribute was at an instant.
  def stood(person, attribute, at)
    person[:attributes].select { |row| row[:name] == attribute && row[:at] <= at }.max_by { |row| row[:at] }&.fetch(:value)
  end

  def within?(window, time, person, date)
    window ||= {}
    day = day(time)
    end_of_date = @population.calendar.end_of(date)
    day <= date && (window["last_days"].nil? || day > date - window["last_days"]) &&
      (window["from"].nil? || day >= Date.parse(window["from"])) && (window["to"].nil? || day <= Date.parse(window["to"])) &&
      known?(window, (day - first_seen(person)).to_i) &&
      (window["last_hours"].nil? || @population.micros(time) >= end_of_date - (window["last_hours"] * 3_600_000_000)) &&
      (window["weekdays"].nil? || window["weekdays"].include?(day.cwday)) && hour?(window["hours"], local(time).hour)
  end

  def known?(window, days) = (window["first_days"].nil? || days < window["first_days"]) && (window["after_first_days"].nil? || days >= window["after_first_days"])

  def hour?(hours, hour)
    return true unless hours

    first, after = hours
    first < after ? hour >= first && hour < after : hour >= first || hour < after
  end

  def did?(body, person, date)
    found = selected(body, person, date)
    return measured?(body["measure"], found) if body["measure"]

    units = { "days" => ->(row) { day(row[:at]) }, "weeks" => ->(row) { day(row[:at]).then { |day| day - (day.cwday - 1) } }, "visits" => ->(row) { visit(person, row) } }
    unit = units[body.dig("count", "of")]
    counted?(body["count"], unit ? found.filter_map(&unit).uniq.size : found.size)
  end

  def counted?(count, found)
    kind, wanted = (count || { "at_least" => 1 }).except("of").first
    { "at_least" => -> { found >= wanted }, "at_most" => -> { found <= wanted }, "exactly" => -> { found == wanted },
      "between" => -> { found.between?(*wanted) } }.fetch(kind).call
  end

  def measured?(measure, found)
    property = measure["of"].to_sym
    found = found.reject { |row| row[property].nil? }
    if %w[first last most_frequent].include?(measure["take"])
      return compare?(measure, value_of(measure["take"], found, property))
    end

    given = found.map { |row| row[property] }
    return compare?(measure, given.uniq.size) if measure["take"] == "distinct"
    return compare?(measure, given.sum) if measure["take"] == "sum"

    value = { "mean" => ->(all) { all.sum / all.size }, "min" => :min.to_proc, "max" => :max.to_proc }.fetch(measure["take"])
    compare?(measure, given.empty? ? nil : value.call(given))
  end

  def value_of(take, found, property)
    rank = ->(value) { [true, false].include?(value) ? [false, true].index(value) : value }
    rows = found.sort_by { |row| [row[:at], rank.call(row[property])] }
    return rows.public_send(take)&.fetch(property) unless take == "most_frequent"

    rows.map { |row| row[property] }.tally.min_by { |value, count| [-count, rank.call(value)] }&.first
  end

  def moment?(kind, body, person, date)
    rows = selected(body, person, date, {})
    at = rows.public_send(kind)&.fetch(:at)
    rows.any? { |row| row[:at] == at && all_hold?(body["then"] || [], row, person) } && within?(body["window"], at, person, date)
  end

  def rhythm?(body, person, date)
    days = selected(body, person, date, {}).map { |row| day(row[:at]) }
    needed = body["in"] || body["last"]
    periods(body, date).count { |period| days.count { |day| period.cover?(day) } >= (body["times"] || 1) } >= needed
  end

  # The last calendar weeks or months that have ended by the date.
  def periods(body, date)
    after = date + 1
    after -= 1 until body["each"] == "week" ? after.monday? : after.mday == 1
    Array.new(body["last"]) do
      before = body["each"] == "week" ? after - 7 : after << 1
      (before...after).tap { after = before }
    end
  end

  # The instant at which the visit of an event began, by all that the person ever did; nil for system messages, which
  # belong to none.
  def visit(person, event)
    return if @population.system.include?(event[:type])

    times = person[:events].reject { |row| @population.system.include?(row[:type]) }.map { |row| row[:at] }.sort
    start = event[:at]
    while (earlier = times.reverse.find { |time| time < start && start - time <= Reference::VISIT_GAP })
      start = earlier
    end
    start
  end

  def visit?(body, person, date)
    done = body["all"].map { |row| selected(row, person, date, body["window"]).group_by { |event| visit(person, event) } }
    done.flat_map(&:keys).compact.any? { |start| body["all"].zip(done).all? { |deed, found| deed?(deed, found[start] || []) } }
  end

  def deed?(deed, found) = deed["measure"] ? measured?(deed["measure"], found) : counted?(deed["count"], found.size)

  # All visits up to a date, in order: when each began, how many seconds it took, how many events it had.
  def visits(person, date)
    types = @population.catalogue.event_types.keys
    events = person[:events].select { |row| day(row[:at]) <= date && !@population.system.include?(row[:type]) }
    events.group_by { |row| visit(person, row) }.sort.each_with_index.map do |(start, rows), index|
      rows = rows.sort_by { |row| [row[:at], types.index(row[:type]), events.index { |one| one.equal?(row) }] }
      { at: start, length: rows.last[:at] - start, events: rows.size, number: index + 1, began: rows.first, ended: rows.last }
    end
  end

  def visited?(body, person, date)
    found = visits(person, date).select do |visit|
      within?(body["window"], visit[:at], person, date) &&
        %w[length events number].all? { |name| bounds?(body[name], visit[name.to_sym]) } &&
        (body["doing"] || []).all? { |row| deed?(row, selected(row, person, date, {}).select { |event| visit(person, event) == visit[:at] }) } &&
        body.slice("began", "ended").all? { |name, row| named?(row, visit[name.to_sym]) && (row["where"] || []).all? { |filter| holds?(filter, visit[name.to_sym], person) } }
    end
    counted?(body["count"], found.size)
  end

  def bounds?(bounds, value)
    bounds.nil? || ((bounds["at_least"].nil? || value >= bounds["at_least"]) && (bounds["at_most"].nil? || value <= bounds["at_most"]) &&
      (bounds["below"].nil? || value < bounds["below"]))
  end

  def order?(body, person, date)
    ends = reached(body, person, date)
    return ends.any? unless body["then_not"]

    ends.any? { |time| decided?(body, time, date) && !followed?(body["then_not"], time, person, date) }
  end

  # Every way to go through the steps; the times at which one can be through.
  def reached(body, person, date)
    first, *rest = body["steps"]
    begun = selected(first, person, date, first["window"] || body["window"]).map { |event| [event, event[:at]] }
    begun = begun.select { |_, at| at == begun.first.last } if first["first"]
    ends = rest.reduce(begun) do |before, step|
      selected(step, person, date, step["window"] || body["window"]).flat_map do |event|
        starts = before.select { |earlier, _| follows?(step, earlier, event, person) }.map(&:last).uniq
        starts.select { |start| body["within"].nil? || event[:at] - start <= seconds(body["within"]) }.map { |start| [event, start] }
      end
    end
    ends.map { |event, _| event[:at] }.uniq
  end

  def follows?(step, before, after, person)
    earlier = before[:at]
    time = after[:at]
    time > earlier && as_far?(step, time - earlier) &&
      (!step["other_day"] || day(time) > day(earlier)) &&
      (!step["same_visit"] || [visit(person, before), visit(person, after)].then { |one, other| one && one == other }) &&
      (!step["next"] || person[:events].none? { |row| row[:at] > earlier && row[:at] < time && (step["among"].nil? || step["among"].include?(row[:type])) })
  end

  def as_far?(step, seconds) = (step["after"].nil? || seconds > seconds(step["after"])) && (step["within"].nil? || seconds <= seconds(step["within"]))

  def seconds(within) = within.sum { |unit, count| { "minutes" => 60, "hours" => 3_600, "days" => 86_400 }.fetch(unit) * count }

  def decided?(body, time, date)
    @population.micros(time) + (seconds(body["then_not"]["within"]) * 1_000_000) < @population.calendar.end_of(date)
  end

  def followed?(absence, time, person, date)
    selected(absence, person, date, {}).any? { |row| row[:at] > time && row[:at] - time <= seconds(absence["within"]) }
  end
end
