# frozen_string_literal: true

module Estrel
  module Audience
    # Builds the frozen tree of clauses from a checked document and looks up every name in the catalogue.
    #
    # Collects all faults before it gives up, so that an editor can mark them all at once.
    class Parser
      # @param catalogue [Catalogue]
      def initialize(catalogue)
        @catalogue = catalogue
        @errors = []
      end

      # @param json [Hash] from {Document#checked}
      # @return [Object] the root clause
      # @raise [Invalid]
      def parse(json)
        root = node(json, "")
        raise Invalid, @errors if @errors.any?

        root
      end

      private

      def node(json, place)
        kind, body = json.first
        place = place.empty? ? kind : "#{place}.#{kind}"
        case kind
        when "all", "any"
          Clause::Group.new(kind, body.each_with_index.map { |child, index| node(child, "#{place}[#{index}]") })
        when "not" then Clause::Negation.new(node(body, place))
        when "attribute" then attribute(body, place)
        when "did" then did(body, place)
        when "lifecycle" then Clause::LifecycleState.new(body["is"])
        end
      end

      def attribute(body, place)
        name = body["name"]
        field = @catalogue.attributes[name]
        return fault("#{place}.name", "no attribute \"#{name}\"", name, @catalogue.attributes.keys) unless field

        comparison = comparison(body, field, place)
        comparison && Clause::Attribute.new(name, comparison, ever: body["ever"] == true)
      end

      def did(body, place)
        name = body["event"]
        type = @catalogue.event_type(name)
        return fault("#{place}.event", "no event type \"#{name}\"", name, @catalogue.event_types.keys) unless type

        filters = (body["where"] || []).each_with_index.map do |row, index|
          filter(row, type, "#{place}.where[#{index}]")
        end
        count = count(body["count"], "#{place}.count")
        window = window(body["window"], "#{place}.window")
        return if count.nil? || window.nil? || filters.any?(&:nil?)

        Clause::Did.new(event: type.name, filters: filters, count: count, window: window)
      end

      def filter(row, type, place)
        name = row["property"]
        field = type.properties[name]
        unless field
          return fault("#{place}.property", "no property \"#{name}\" on \"#{type.name}\"", name, type.properties.keys)
        end

        comparison = comparison(row, field, place)
        comparison && Clause::Did::Filter.new(name, comparison)
      end

      def comparison(row, field, place)
        operator = row["compare"]
        allowed = Comparison::FOR_TYPE.fetch(field.type)
        unless allowed.include?(operator)
          return fault("#{place}.compare", "\"#{field.name}\" is #{typed(field.type)}; " \
                                           "compare it with one of #{allowed.join(", ")}")
        end
        return Comparison.new(operator, nil, type: field.type) if Comparison::WITHOUT_VALUE.include?(operator)

        value = value(row["value"], field, place)
        return if value.nil?

        Comparison.new(operator, value, type: field.type,
                                        ignore_case: %w[text list].include?(field.type) && row["ignore_case"] == true)
      end

      def value(value, field, place)
        fits = case field.type
               when "text", "list" then value.is_a?(String)
               when "number" then value.is_a?(Numeric) && value.to_f.finite?
               when "boolean" then [true, false].include?(value)
               when "date", "time" then return day(value, "#{place}.value")
               end
        return value if fits

        fault("#{place}.value", "\"#{field.name}\" is #{typed(field.type)}; " \
                                "#{value.nil? ? "a value to compare with is missing" : "#{value.inspect} is not"}")
      end

      def typed(type)
        { "text" => "text", "number" => "a number", "boolean" => "true or false", "date" => "a date",
          "time" => "a time", "list" => "a list of texts" }[type]
      end

      def count(json, place)
        minimum, maximum = json&.fetch("between", nil)
        if maximum && minimum > maximum
          return fault("#{place}.between", "the range is upside down: #{minimum} is more than #{maximum}")
        end

        Count.from_h(json)
      end

      def window(json, place)
        return Window.from_h(json) if json.nil? || json.keys == ["last_days"] || json.keys == ["ever"]
        return fault(place, "needs either last_days, or from and to, or ever") unless json.keys.sort == %w[from to]

        from, to = %w[from to].map { |key| day(json[key], "#{place}.#{key}") }
        return if from.nil? || to.nil?
        return fault(place, "the window ends (#{to}) before it starts (#{from})") if to < from

        Window.from_h(json)
      end

      def day(text, place)
        Date.strptime(text, "%Y-%m-%d")
      rescue Date::Error, TypeError
        fault(place, "#{text.inspect} is not a date; write it as 2026-05-31")
      end

      def fault(place, message, word = nil, known = [])
        @errors << { place: place, message: "#{message}#{Catalogue.suggestion(word, known) if word}" }
        nil
      end
    end
  end
end
