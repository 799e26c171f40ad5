# frozen_string_literal: true

# What the reference says of how far somebody had got by an event.
module ReferenceSoFar
  private

  # The minutes spent in visits by an event, or the highest value of a number by its instant.
  def so_far(person, what, row)
    return highest(what, person, row[:at]) if what.is_a?(Hash)

    start = visit(person, row) or return
    ((visits(person, day(row[:at])).sum { |visit| visit[:at] < start ? visit[:length] : 0 } + (row[:at] - start)) / 60).floor
  end

  def highest(what, person, at)
    levels = person[:events].select { |one| one[:at] <= at && one[:type] == what["event"] }
    levels.filter_map { |one| one[what["property"].to_sym] }.max
  end
end
