# frozen_string_literal: true

module Estrel
  module Analyses
    # What is counted of the events of a group in a period: its people, how often they did it, or a property. Frozen.
    #
    # Each is made of counts that add up over people, see {EventCounts}, so it is worked out only when these are known
    # of all.
    class EventMeasure
      # What each is computed from.
      NEEDS = {
        "people" => %i[people], "times" => %i[times], "per_person" => %i[people times],
        "share_of_active" => %i[people active], "sum" => %i[sums], "mean" => %i[sums given],
        "sum_per_person" => %i[people sums], "median" => %i[values], "p90" => %i[values], "min" => %i[spans],
        "max" => %i[spans], "distinct" => %i[values]
      }.freeze
      OF_PROPERTY = %w[sum mean median p90 min max distinct sum_per_person].freeze
      # Those of which the series of an answer are parts, so that each has a share of all.
      ADDITIVE = %w[people times sum].freeze
      WORDS = { "sum" => "total", "mean" => "mean", "median" => "median", "p90" => "90th percentile of",
                "min" => "lowest", "max" => "highest", "sum_per_person" => "total per person of" }.freeze
      PLAIN = { "people" => "people", "times" => "times", "per_person" => "times per person",
                "share_of_active" => "share of active people" }.freeze
      private_constant :WORDS, :PLAIN

      # @param kind [String, nil] of {NEEDS}; people where nothing is said
      # @param property [String, nil] for those of {OF_PROPERTY}
      # @param selections [Array<Audience::Selection>]
      # @param catalogue [Catalogue]
      # @raise [Invalid]
      def initialize(kind, property, selections, catalogue)
        @kind = kind || "people"
        @property = of_property? ? property.to_s.dup.freeze : nil
        types = selections.flat_map { |selection| selection.types(catalogue) }.uniq
        check(types, catalogue) if of_property?
        @names = catalogue.names
        @field = @property && @names.property_field(@property, types.map(&:name))
        freeze
      end

      # @return [String] of {NEEDS}
      attr_reader :kind
      # @return [String, nil]
      attr_reader :property

      # @return [Array<Symbol>] what is to be counted, see {EventCounts}
      def needs = NEEDS.fetch(kind)

      # @return [Boolean]
      def of_property? = OF_PROPERTY.include?(kind)

      # @return [Boolean] see {ADDITIVE}
      def additive? = ADDITIVE.include?(kind)

      # @return [Boolean] whether a number of people is told
      def people? = kind == "people"

      # @param counts [EventCounts]
      # @param code [Integer] of a group and a period
      # @return [Numeric, nil] nil where there is nothing to tell it of
      def value(counts, code)
        case kind
        when "people", "times" then counts.public_send(kind, code)
        when "sum" then counts.sum(code)
        when "per_person" then ratio(counts.times(code), counts.people(code))
        when "share_of_active" then ratio(counts.people(code), counts.active(code))
        when "mean" then ratio(counts.sum(code), counts.given(code))
        when "sum_per_person" then ratio(counts.sum(code), counts.people(code))
        when "min", "max" then counts.span(code)&.public_send(kind == "min" ? :first : :last)
        else of_values(counts.values(code))
        end
      end

      # @return [String] what its figures are, of {Table::KINDS}
      def column
        { "people" => "people", "times" => "count", "distinct" => "count", "share_of_active" => "share" }
          .fetch(kind, "mean")
      end

      # @return [String, nil]
      def unit = @field&.unit

      # @return [String, nil] of {Names::QUANTITIES}
      def quantity = @field&.quantity

      # @param value [Numeric]
      # @return [String] the value with its unit
      def said(value)
        case column
        when "share" then English.percent(value)
        when "people", "count" then English.number(value)
        else @property ? English.quantity(value, quantity, unit) : English.rate(value)
        end
      end

      # @return [String] "people", "times per person", "mean distance"
      def to_s
        return PLAIN.fetch(kind) unless @property
        return "distinct values of #{@names.property(@property)}" if kind == "distinct"

        "#{WORDS.fetch(kind)} #{@names.property(@property)}"
      end

      private

      def ratio(above, below) = below.zero? ? nil : above.fdiv(below)

      def of_values(values)
        if kind == "distinct"
          values.size
        else
          Statistics::Quantile.of(values, kind == "median" ? 0.5 : 0.9)
        end
      end

      def check(types, catalogue)
        found = types.filter_map { |type| type.properties[@property]&.type }
        return if found.any? && (kind == "distinct" || found.all?("number"))

        names = English.either(types.map { |type| catalogue.names.event(type.name) })
        what = kind == "distinct" ? "" : " that is a number"
        raise Invalid.at("property", "there is no property #{@property.inspect} of #{names}#{what}")
      end
    end
  end
end
