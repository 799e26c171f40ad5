# frozen_string_literal: true

# What the reference says of messages and what came of them.
module ReferenceCampaigns
  ORDER = ->(row) { [row[:at], row[:campaign].to_s, row[:channel].to_s] }

  # One person's messages by the date, in order, each with what came of it by then.
  def messages(person, date)
    by = person[:events].select { |row| day(row[:at]) <= date }
    sent = by.select { |row| row[:type] == "message_received" }.sort_by(&ORDER).map { |row| { **row, came: {} } }
    %w[opened clicked unsubscribed].each do |kind|
      by.select { |row| row[:type] == "message_#{kind}" }.sort_by { |row| row[:at] }.each do |row|
        message = sent.reverse.find { |one| one[:campaign] == row[:campaign] && one[:at] <= row[:at] }
        message[:came][kind] ||= row[:at] if message
      end
    end
    sent
  end

  def responded?(message) = !message[:came].slice("opened", "clicked").empty?

  def runs(found) = found.slice_when { |before, after| !responded?(before) || !responded?(after) }.select { |run| responded?(run.first) }.map(&:size)

  private

  def campaign?(body, person, date)
    found = messages(person, date).select { |row| looked_at?(body, row, person, date) }
    found = found.reject { |row| young?(row, date) } if body["was"] == "ignored"
    found = found.size >= body["last"] ? found.last(body["last"]) : [] if body["last"]
    return false if found.empty?
    return settled_streak?(body, found.reject { |row| young?(row, date) }) if body["share"] || body["streak"]

    found.public_send(body["last"] ? :all? : :any?) { |row| answered?(body, row, person, date) }
  end

  # Nobody has answered yet, and it is not three days old.
  def young?(message, date) = !responded?(message) && day(message[:at]) > date - 3

  def settled_streak?(body, found)
    if body["share"]
      return bounded?(body["share"], found.empty? ? 0.0 : found.count { |row| responded?(row) }.fdiv(found.size))
    end

    bounded?(body["streak"], found.empty? ? 0 : run(body["streak"]["of"], found))
  end

  def looked_at?(body, row, person, date)
    (!body["without_name"] || row[:campaign].nil?) && (!body["without_channel"] || row[:channel].nil?) &&
      (body["name"].nil? || row[:campaign] == body["name"]) && (body["channel"].nil? || row[:channel] == body["channel"]) &&
      within?(body["window"], row[:at], person, date) && (body["from"].nil? || body["from"].include?(state(person, day(row[:at]) - 1)))
  end

  def bounded?(bounds, value) = value >= bounds.fetch("at_least", 0) && (bounds["less_than"].nil? || value < bounds["less_than"])

  def run(of, found)
    lengths = runs(found)
    case of
    when "current" then responded?(found.last) ? lengths.last : 0
    when "longest" then lengths.max || 0
    else lengths.empty? ? 0 : lengths.sum.fdiv(lengths.size)
    end
  end

  def answered?(body, row, person, date)
    case body["was"]
    when "sent" then true
    when "ignored" then !responded?(row)
    when "reactivated" then reactivated_after?(row, person, date, body.fetch("within_days", 14))
    else row[:came].key?(body["was"])
    end
  end

  def reactivated_after?(row, person, date, days)
    on = day(row[:at])
    activity = person[:events].select { |event| @rule_set.event_types.include?(event[:type]) && day(event[:at]) <= date }.map { |event| event[:at] }
    inactive = %w[dormant churned].include?(state(person, on - 1)) && activity.none? { |at| day(at) == on && at < row[:at] }
    inactive && activity.any? { |at| at >= row[:at] && day(at) < on + days }
  end
end
