# frozen_string_literal: true

module Estrel
  # What event types, properties and attributes are called on screen: by the names somebody chose, or else by ones made
  # of the raw names. Says what people did, and values with their units. Frozen.
  class Names
    # What a number can be of; `number` is any other.
    QUANTITIES = %w[number money duration distance share].freeze

    # @param catalogue [Catalogue]
    def initialize(catalogue)
      @catalogue = catalogue
      # Names that several event types would be called by; of these only those that somebody chose are used.
      called = catalogue.event_types.each_value.map { |type| type.noun || English.humanised(type.name) }
      @taken = called.tally.select { |_, times| times > 1 }.keys.to_set.freeze
      freeze
    end

    # @param name [String] of an event type, also of one there is no longer
    # @return [String] "ride ended"
    def event(name)
      chosen = @catalogue.event_type(name)&.noun and return chosen

      words = English.humanised(name)
      @taken.include?(words) ? name : words
    end

    # @param name [String]
    # @return [String, nil] "ended a ride"; nil where neither somebody nor the name says so
    def phrase(name) = @catalogue.event_type(name)&.phrase || English.participle(event(name))

    # @param name [String]
    # @return [String] what somebody did: "ended a ride", or "had “page view” events"
    def done(name) = events([name])

    # @param names [Array<String>, nil] event types; nil for any
    # @param done [Boolean] rather than "have not …"
    # @return [String] "ended a ride, bought a pass or had “page view” events"; "did anything"
    def events(names, done: true)
      return done ? "did anything" : "done anything" unless names

      named, bare = names.partition { |name| phrase(name) }
      phrases = named.map { |name| done ? phrase(name) : English.perfect(phrase(name)) }
      phrases << "had #{English.either(bare.map { |name| English.quoted(event(name)) })} events" if bare.any?
      English.either(phrases)
    end

    # @param name [String] of an attribute
    # @return [String]
    def attribute(name) = field_name(@catalogue.attributes[name], name)

    # @param name [String] of a property
    # @param events [Array<String>, nil] the types that carry it; nil for any
    # @return [String]
    def property(name, events = nil) = field_name(property_field(name, events), name)

    # @param name [String]
    # @param events [Array<String>, nil]
    # @return [Catalogue::Field, nil] of the first of the types that has it
    def property_field(name, events = nil)
      types = events ? events.filter_map { |type| @catalogue.event_type(type) } : @catalogue.event_types.each_value
      fields = types.filter_map { |type| type.properties[name] }
      fields.find(&:display) || fields.first
    end

    # @param name [String]
    # @return [Catalogue::Field, nil]
    def attribute_field(name) = @catalogue.attributes[name]

    # @param name [String] of a campaign
    # @return [String] as named among the values of the property that names campaigns
    def campaign(name)
      messaging = @catalogue.messaging
      said(property_field(messaging.campaign, Campaigns::Messaging::KINDS.map { |kind| messaging.event(kind) }), name)
    end

    # @param field [Catalogue::Field, nil]
    # @param value [Object] of it
    # @return [String] with its unit: "3 km", "4.50 orrins", "12%"; a value that has a name by that
    def said(field, value) = Names.said(field, value)

    # @return [String] see {#said}
    def self.said(field, value)
      return English.value(value) unless field
      return field.values.fetch(value) if field.values&.key?(value)
      return English.value(value) unless value.is_a?(Numeric) && (field.quantity || field.unit)

      English.quantity(value, field.quantity, field.unit)
    end

    private

    def field_name(field, name) = field&.display || English.humanised(name)
  end
end
