# frozen_string_literal: true

# What the reference says of how far somebody had got by an event.
module ReferenceSoFar
  private

  # The minutes spent in visits by an event, or the highest value of a number by its instant.
  def so_far(person, what, row)
    return highest(what, person, row[:at]) if what.is_a?(Hash)

    (visits(person, day(row[:at])).sum { |visit| spent_in_visit(person, visit[:at], row[:at]) } / 60).floor
  end

  # Seconds of a visit by an instant: up to its last event by then.
  def spent_in_visit(person, start, at)
    events = person[:events].select { |one| one[:at].between?(start, at) && visit(person, one) == start }
    events.empty? ? 0 : events.map { |one| one[:at] }.max - start
  end

  def highest(what, person, at)
    levels = person[:events].select { |one| one[:at] <= at && one[:type] == what["event"] }
    levels.filter_map { |one| one[what["property"].to_sym] }.max
  end
end
