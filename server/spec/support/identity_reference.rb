# frozen_string_literal: true

# The rules of identity in the plainest Ruby there is: messages one after the other, in the order of receipt.
class IdentityReference
  Person = Struct.new(:identifiers, :events, :attributes)

  def initialize
    @people = []
  end

  # @param messages [Array<Hash>] CloudEvents
  # @return [Array<Hash>] as CollectorHelper#histories
  def self.histories(messages) = new.tap { |reference| messages.each { |message| reference.take(message) } }.histories

  def take(message)
    case message["type"]
    when "estrel.link" then link(message["subject"], message["data"]["same_as"])
    when "estrel.attributes"
      message["data"].each { |name, value| holder!(message["subject"]).attributes[[name, message["time"]]] ||= value }
    else holder!(message["subject"]).events << message["id"]
    end
  end

  def histories
    @people.map do |person|
      { identifiers: person.identifiers.sort, events: person.events.sort,
        attributes: person.attributes.map { |(name, time), value| [name, Time.iso8601(time), value] }.sort_by(&:to_s) }
    end
  end

  private

  def holder(identifier) = @people.find { |person| person.identifiers.include?(identifier) }

  def holder!(identifier) = holder(identifier) || Person.new([identifier], [], {}).tap { |person| @people << person }

  def customer(identifier) = [identifier, *holder(identifier)&.identifiers].find { |held| held.start_with?("customer:") }

  def link(one, other)
    if customer(one) && customer(other) && customer(one) != customer(other)
      device, owner = [one, other].partition { |identifier| identifier.start_with?("visitor:") }
      share(device[0], owner[0]) if device.size == 1
    elsif (parties = [holder(one), holder(other)].compact.uniq).size == 2
      kept = parties.max_by { |person| [rank(person), -@people.index(person)] }
      absorb(kept, (parties - [kept]).first)
    else
      (holder(one) || holder!(other)).then { |person| person.identifiers = person.identifiers | [one, other] }
    end
  end

  def rank(person)
    at = %w[customer: email:].index { |kind| person.identifiers.any? { |held| held.start_with?(kind) } }
    at ? 2 - at : 0
  end

  def absorb(kept, gone)
    kept.identifiers |= gone.identifiers
    kept.events += gone.events
    kept.attributes = gone.attributes.merge(kept.attributes)
    @people.delete(gone)
  end

  def share(device, customer)
    holder(device).identifiers -= [device]
    holder!(customer).identifiers |= [device]
  end
end
