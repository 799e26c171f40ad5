# frozen_string_literal: true

# The questions about the lifecycle in the plainest Ruby there is: one person and one date at a time.
module ReferenceLifecycle
  # People per state before and after, of all seen by the later day.
  def movement(before, after, among = nil)
    seen(after, among).each_with_object(Hash.new(0)) do |person, table|
      table[[state(person, before), state(person, after)]] += 1
    end
  end

  def seen(date, among = nil)
    @population.people.select { |id, person| exists?(person, date) && (among.nil? || among.include?(id)) }.values
  end

  def active_within(date, window, among = nil)
    seen(date, among).count { |person| activity_days(person, date).any? { |day| day > date - window } }
  end

  # Devices that activity came from within some days.
  def devices_within(date, window)
    events = @population.people.values.flat_map { |person| person[:events] }
    events = events.select { |event| @rule_set.event_types.include?(event[:type]) && day(event[:at]).between?(date - window + 1, date) }
    events.filter_map { |event| event[:device] }.uniq.size
  end

  # Different people active from one day to another: for the first time, and again.
  def active_between(from, to)
    @population.people.values.each_with_object({ new: 0, again: 0 }) do |person, found|
      days = activity_days(person, to)
      found[days.first >= from ? :new : :again] += 1 if days.any? { |day| day >= from }
    end
  end

  # Every inactivity gap: its days, and whether it has ended.
  def inactivity_gaps(date) = gaps_by_person(date).flatten(1)

  def gaps_by_person(date)
    @population.people.values.map do |person|
      days = activity_days(person, date).uniq
      ended = days.each_cons(2).map { |one, other| [(other - one).to_i, true] }
      days.empty? ? [] : [*ended, [(date - days.last).to_i, false]]
    end
  end

  # The variance of log S(t) straight from its definition: what each person adds to it, squared.
  def robust_variance(people, time)
    at_risk = ->(u) { people.sum { |gaps| gaps.count { |days, _| days >= u } } }
    over = ->(u) { people.sum { |gaps| gaps.count { |days, ended| ended && days == u } } }
    people.sum do |gaps|
      adds = (0..time).sum do |u|
        next 0 if over[u].zero?

        (gaps.count { |days, ended| ended && days == u } - (gaps.count { |days, _| days >= u } * over[u].fdiv(at_risk[u]))) / (at_risk[u] - over[u])
      end
      adds**2
    end
  end

  # S(t) straight from its definition.
  def survival(periods, time)
    (0..time).reduce(1.0) do |product, u|
      at_risk = periods.count { |days, _| days >= u }
      at_risk.zero? ? product : product * (1 - periods.count { |days, ended| ended && days == u }.fdiv(at_risk))
    end
  end

  # Of those churned on a date, and of those who have become so after an earlier one, who is back within so many days.
  def called_churned(date, earlier, days)
    churned = @population.people.values.select { |person| state(person, date) == "churned" }
    newly = churned.reject { |person| state(person, earlier) == "churned" && back(person, earlier, (date - earlier).to_i).nil? }
    [churned, newly].map { |people| [people.size, people.count { |person| back(person, date, days) }] }
  end

  def back(person, date, days) = activity_days(person, date + days).find { |day| day > date }

  # People per state as known at the end of a date: without what was received or linked later.
  def received_then(date, late:, apart:)
    owners(date, late, apart).values.map { |events| state({ events: events, attributes: [] }, date) }.tally
  end

  private

  def owners(date, late, apart)
    @population.people.each_with_object(Hash.new { |hash, id| hash[id] = [] }) do |(id, person), owners|
      person[:events].each do |event|
        next if late && day(event[:received] || event[:at]) > date

        owners[apart && event[:of] && day(event[:linked]) > date ? event[:of] : id] << event
      end
    end
  end
end
