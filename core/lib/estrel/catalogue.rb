# frozen_string_literal: true

module Estrel
  # What the ledger holds: event types with their properties, and attributes, each with its type; the sources events
  # came from; and the misspelt event types that are read as others.
  #
  # Frozen; written into every ledger generation. Audience definitions are checked against it, and its
  # suggestions ("did you mean …?") come from here.
  class Catalogue
    # What a property can be.
    PROPERTY_TYPES = %w[text number boolean time].freeze
    # What an attribute can be.
    TYPES = %w[text number boolean date time list].freeze

    # One property or attribute. `mixed` marks one that arrived with more than one type and is therefore kept as text.
    # What somebody chose to show it by, nil where nobody has: `display`, its name; `quantity` of {Names::QUANTITIES}
    # and `unit`; `values`, names of its values.
    Field = Struct.new(:name, :type, :mixed, :display, :quantity, :unit, :values, keyword_init: true) do
      def to_h
        { "name" => name, "type" => type, "mixed" => mixed, "display" => display, "quantity" => quantity,
          "unit" => unit, "values" => values }.compact
      end
    end

    # One event type; `properties` maps name to {Field}, `count` is the number of events. `not_activity` marks system
    # messages, which are no sign of life; `hidden` ones are not offered for choosing. `noun` and `phrase` are what
    # somebody chose to call it ("ride ended") and to say of whoever did it ("ended a ride"), nil where nobody has.
    EventType = Struct.new(:id, :name, :properties, :count, :folder, :not_activity, :hidden, :description, :noun,
                           :phrase, keyword_init: true) do
      def to_h
        { "id" => id, "name" => name, "count" => count, "properties" => properties.values.map(&:to_h),
          "folder" => folder.to_s, "not_activity" => not_activity == true, "hidden" => hidden == true,
          "description" => description, "noun" => noun, "phrase" => phrase }.compact
      end
    end

    # @return [Hash{String => EventType}]
    attr_reader :event_types
    # @return [Hash{String => Field}]
    attr_reader :attributes
    # @return [Hash{String => String}] name of a merged event type to the one it is read as
    attr_reader :aliases
    # @return [Hash{Integer => String}] names of sources by id
    attr_reader :sources
    # @return [Campaigns::Messaging] which event types stand for messages
    attr_reader :messaging
    # @return [Names] what all of it is called on screen
    attr_reader :names

    # @param event_types [Array<EventType>]
    # @param attributes [Array<Field>]
    # @param aliases [Hash{String => String}]
    # @param sources [Hash{Integer => String}]
    # @param messaging [Campaigns::Messaging]
    # @param whole [Catalogue, nil] the one this one is a part of, see {#without}
    def initialize(event_types:, attributes:, aliases: {}, sources: {}, messaging: Campaigns::Messaging.new, whole: nil)
      @event_types = event_types.to_h { |type| [type.name, type] }.freeze
      @attributes = attributes.to_h { |field| [field.name, field] }.freeze
      @aliases = aliases.freeze
      @sources = sources.freeze
      @messaging = messaging
      @whole = whole
      @names = Names.new(self)
      freeze
    end

    # @return [Catalogue] with everything there is
    def whole = @whole || self

    # @param name [String] as somebody wrote it, also that of a merged type
    # @return [EventType, nil]
    def event_type(name) = event_types[aliases.fetch(name, name)]

    # @param properties [Hash{String => Array<String>}] per event type, merged ones included
    # @param names [Array<String>] of attributes
    # @return [Catalogue] that knows nothing of them
    def without(properties, names)
      hidden = Hash.new { |hash, type| hash[type] = [] }
      properties.each { |type, fields| hidden[aliases.fetch(type, type)].concat(fields) }
      types = event_types.each_value.map do |type|
        type.dup.tap { |copy| copy.properties = type.properties.except(*hidden[type.name]).freeze }.freeze
      end
      Catalogue.new(event_types: types, attributes: attributes.except(*names).values, aliases: aliases,
                    sources: sources, messaging: messaging, whole: whole)
    end

    # @param json [Hash] as made by {#to_h}
    # @return [Catalogue]
    def self.from_h(json)
      field = ->(row) { Field.new(**row.transform_keys(&:to_sym)).freeze }
      types = json["event_types"].map do |row|
        properties = row["properties"].map(&field).to_h { |property| [property.name, property] }.freeze
        EventType.new(**row.transform_keys(&:to_sym), properties: properties).freeze
      end
      new(event_types: types, attributes: json["attributes"].map(&field), aliases: json.fetch("aliases", {}),
          sources: json.fetch("sources", {}).transform_keys(&:to_i),
          messaging: Campaigns::Messaging.new(json["messaging"]))
    end

    # @return [Hash] plain JSON
    def to_h
      { "event_types" => event_types.values.map(&:to_h), "attributes" => attributes.values.map(&:to_h),
        "aliases" => aliases, "sources" => sources, "messaging" => messaging.to_h }
    end

    # @return [Hash] the same but for sources, with what everything is called on screen, chosen or made of its raw name
    def named
      types = event_types.values.map do |type|
        properties = type.properties.each_value.map { |field| called(field, names.property(field.name, [type.name])) }
        type.to_h.merge("noun" => names.event(type.name), "phrase" => names.phrase(type.name),
                        "properties" => properties)
      end
      fields = attributes.values.map { |field| called(field, names.attribute(field.name)) }
      to_h.except("sources").merge("event_types" => types, "attributes" => fields)
    end

    # @param word [String] a name somebody wrote
    # @param known [Array<String>] the names there are
    # @return [String] "; did you mean …?" or, when nothing is near, an empty string
    def self.suggestion(word, known)
      near = DidYouMean::SpellChecker.new(dictionary: known).correct(word).first
      near ? "; did you mean \"#{near}\"?" : ""
    end

    private

    def called(field, name) = field.to_h.merge("display" => name)
  end
end
