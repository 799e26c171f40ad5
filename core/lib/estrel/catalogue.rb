# frozen_string_literal: true

module Estrel
  # What the ledger holds: event types with their properties, and attributes, each with its type.
  #
  # Frozen; written into every ledger generation. Audience definitions are checked against it, and its
  # suggestions ("did you mean …?") come from here.
  class Catalogue
    TYPES = %w[text number boolean time].freeze

    # One property or attribute. `mixed` marks one that arrived with more than one type and is therefore kept as text.
    Field = Struct.new(:name, :type, :mixed, keyword_init: true) do
      def to_h = { "name" => name, "type" => type, "mixed" => mixed }
    end

    # One event type; `properties` maps name to {Field}, `count` is the number of events.
    EventType = Struct.new(:id, :name, :properties, :count, keyword_init: true) do
      def to_h = { "id" => id, "name" => name, "count" => count, "properties" => properties.values.map(&:to_h) }
    end

    # @return [Hash{String => EventType}]
    attr_reader :event_types
    # @return [Hash{String => Field}]
    attr_reader :attributes

    # @param event_types [Array<EventType>]
    # @param attributes [Array<Field>]
    def initialize(event_types:, attributes:)
      @event_types = event_types.to_h { |type| [type.name, type] }.freeze
      @attributes = attributes.to_h { |field| [field.name, field] }.freeze
      freeze
    end

    # @param json [Hash] as made by {#to_h}
    # @return [Catalogue]
    def self.from_h(json)
      field = ->(row) { Field.new(name: row["name"], type: row["type"], mixed: row["mixed"]).freeze }
      types = json["event_types"].map do |row|
        properties = row["properties"].map(&field).to_h { |property| [property.name, property] }.freeze
        EventType.new(id: row["id"], name: row["name"], count: row["count"], properties: properties).freeze
      end
      new(event_types: types, attributes: json["attributes"].map(&field))
    end

    # @return [Hash] plain JSON
    def to_h = { "event_types" => event_types.values.map(&:to_h), "attributes" => attributes.values.map(&:to_h) }

    # @param word [String] a name somebody wrote
    # @param known [Array<String>] the names there are
    # @return [String] "; did you mean …?" or, when nothing is near, an empty string
    def self.suggestion(word, known)
      near = DidYouMean::SpellChecker.new(dictionary: known).correct(word).first
      near ? "; did you mean \"#{near}\"?" : ""
    end
  end
end
