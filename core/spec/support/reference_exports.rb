# frozen_string_literal: true

# Exporting in the plainest Ruby there is: one person and one step after the other.
module ReferenceExports
  # The step that keeps each person back, or "exported". `listed` holds addresses in plain, `held` whom
  # each holdout holds, by its step and in their order.
  def waterfall(ids, date, channel:, events:, days:, listed:, held:)
    taken = []
    ids.to_h do |id|
      person = @population.people.fetch(id)
      address = newest_valid(person, channel, date)
      step = alone(facts(person, channel, date), address, channel)
      step ||= "messaged" if recent?(person, date, events, days)
      step ||= "listed" if facts(person, "email", date).any? { |row| listed.include?(row[:address]&.downcase) }
      step ||= "repeated" if address && taken.include?(address)
      taken << address if step.nil? && address
      [id, step || held_back(id, held) || "exported"]
    end
  end

  private

  def held_back(id, held) = held.find { |_, holdout| holdout.include?(id) }&.first

  def newest_valid(person, channel, date)
    facts(person, channel, date).filter_map do |row|
      row[:address] if Reference::VALID.fetch(channel, []).include?(row[:address])
    end.last
  end

  def facts(person, channel, date)
    (person[:reach] || []).select { |row| row[:channel] == channel && day(row[:at]) <= date }.sort_by { |row| row[:at] }
  end

  def alone(rows, address, channel)
    return unless channel

    words = rows.filter_map { |row| row[:given].nil? ? nil : [row[:given]] }.flatten
    return "no_address" if channel == "push" ? words.empty? : rows.none? { |row| row[:address] }
    return "invalid_address" if channel != "push" && address.nil?

    "consent_withdrawn" if words.last == false
  end

  def recent?(person, date, events, days)
    person[:events].any? { |event| events.include?(event[:type]) && day(event[:at]).between?(date - days + 1, date) }
  end
end
