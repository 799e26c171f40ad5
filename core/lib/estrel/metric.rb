# frozen_string_literal: true

module Estrel
  # What is measured of people's events: how many people did something, how often it was done, or the sum of a number of
  # it. Frozen.
  class Metric
    KINDS = %w[people times sum].freeze

    # @param json [Hash] `event`, `events` or `any_event`, and `where`, as in a condition; `measure` of {KINDS}; for
    #   sums `property`, the name of a number
    # @param catalogue [Catalogue]
    # @param place [String] where it stands, for faults
    # @return [Metric]
    # @raise [Analyses::Invalid]
    def self.parse(json, catalogue, place = "metric")
      selection = selection(json, catalogue, place)
      kind = json["measure"] || "times"
      property = kind == "sum" ? json["property"] : nil
      check_number(property, selection.types(catalogue), place) if kind == "sum"
      new(selection, kind, property, catalogue)
    end

    # @param json [Hash] as in {parse}
    # @return [Audience::Selection]
    # @raise [Analyses::Invalid]
    def self.selection(json, catalogue, place)
      Audience::Selection.parse({ "where" => [], **json.slice("event", "events", "any_event", "where") }, catalogue)
    rescue Audience::Invalid => e
      raise Analyses::Invalid, (e.errors.map { |error| { **error, place: error[:place].sub(/\Adid\b/, place) } })
    end

    def self.check_number(property, types, place)
      found = types.filter_map { |type| type.properties[property]&.type }
      return if found.any? && found.all?("number")

      names = English.either(types.map(&:name))
      raise Analyses::Invalid.at("#{place}.property",
                                 "there is no property #{property.inspect} of #{names} that is a number")
    end
    private_class_method :check_number

    # @return [Audience::Selection]
    attr_reader :selection
    # @return [String] of {KINDS}
    attr_reader :kind
    # @return [String, nil]
    attr_reader :property

    def initialize(selection, kind, property, catalogue)
      @selection = selection
      @kind = kind
      @property = property&.dup.freeze
      @catalogue = catalogue
      freeze
    end

    # @return [Array] names it completely
    def key = [selection.to_h, kind, property]

    # @return [Boolean] whether it is a share of people, not something each of them has so much of
    def share? = kind == "people"

    # @param evaluator [Audience::Evaluator] none after its as-of date is looked at
    # @param first [Integer] day number
    # @param last [Integer] day number
    # @return [Polars::DataFrame] `profile_id`, `day` and `value`: 1 for each event, or its number
    def values(evaluator, first, last)
      value = property ? Polars.col("value").fill_null(0.0) : Polars.lit(1.0)
      dates = [first, [last, Calendar.number(evaluator.as_of)].min].map { |day| Calendar.date(day) }
      window = Audience::Window.from_h("from" => dates[0].iso8601, "to" => dates[1].iso8601)
      selection.rows(evaluator, window, property: property)
               .select([Polars.col("profile_id"), Polars.col("day"), value.alias("value")])
    end

    # @return [String] "ended a ride", "how often they ended a ride", "total price (pass bought)"
    def to_s
      return "total #{@catalogue.names.property(property, selection.events)} (#{summed})" if property

      did = Audience::Phrases.done(selection, @catalogue)
      share? ? did : "number of times they #{did}"
    end

    private

    def summed
      names = selection.events&.map { |name| @catalogue.names.event(name) }
      conditions = Audience::Phrases.new(@catalogue).conditions(selection, "").map { |part| part[:text] }
      [names ? English.list(names, "and") : "all events", *conditions].join(" ")
    end
  end
end
