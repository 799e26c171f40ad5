# frozen_string_literal: true

module Estrel
  module Audience
    # Reads comparisons, counts, windows and days, and says what is wrong with them.
    class FieldParser
      TYPES = { "text" => "text", "number" => "a number", "boolean" => "true or false", "date" => "a date",
                "time" => "a time", "list" => "a list of texts" }.freeze
      private_constant :TYPES

      # @param faults [Faults]
      def initialize(faults)
        @faults = faults
      end

      # @param row [Hash]
      # @param field [Catalogue::Field]
      # @param place [String]
      # @return [Comparison, nil] nil where a fault was found
      def comparison(row, field, place)
        operator = row["compare"]
        allowed = Comparison::FOR_TYPE.fetch(field.type)
        unless allowed.include?(operator)
          return @faults.add("#{place}.compare", "\"#{field.name}\" is #{TYPES[field.type]}; " \
                                                 "compare it by #{English.either(allowed).tr("_", " ")}")
        end
        return Comparison.new(operator, nil, type: field.type) if Comparison::WITHOUT_VALUE.include?(operator)

        value = values(row["value"], operator, field, place)
        return if value.nil?

        Comparison.new(operator, value, type: field.type,
                                        ignore_case: %w[text list].include?(field.type) && row["ignore_case"] == true)
      end

      # @param json [Hash, nil]
      # @param place [String]
      # @return [Count, nil]
      def count(json, place)
        minimum, maximum = json&.fetch("between", nil)
        if maximum && minimum > maximum
          return @faults.add("#{place}.between", "the lower limit (#{minimum}) is greater than the upper limit " \
                                                 "(#{maximum})")
        end

        Count.from_h(json)
      end

      # @param json [Hash, nil]
      # @param place [String]
      # @return [Window, nil]
      def window(json, place)
        json ||= {}
        bases = json.slice("ever", "last_days", "last_hours", "first_days").keys
        bases |= %w[first_days] if json.key?("after_first_days")
        bases << "from and to" if json.key?("from") || json.key?("to")
        if bases.size > 1 || (bases.empty? && json.any? && !(json.key?("weekdays") || json.key?("hours")))
          return @faults.add(place, "choose a period")
        end

        least, most = json.values_at("after_first_days", "first_days")
        if least && most && least >= most
          return @faults.add(place, "the period ends on day #{most}, before it starts on day #{least + 1}")
        end
        return unless (ends = window_days(json, place))

        Window.from_h(json.merge(ends.compact.transform_values(&:iso8601)))
      end

      # @param text [Object]
      # @param place [String]
      # @return [Date, nil]
      def day(text, place)
        Date.strptime(text, "%Y-%m-%d")
      rescue Date::Error, TypeError
        @faults.add(place, "#{text.inspect} is not a date; write it as 2026-05-31")
      end

      private

      def window_days(json, place)
        ends = %w[from to].to_h { |key| [key, json[key] && day(json[key], "#{place}.#{key}")] }
        return if %w[from to].any? { |key| json[key] && ends[key].nil? }
        return ends unless ends["from"] && ends["to"] && ends["to"] < ends["from"]

        @faults.add(place,
                    "the period ends (#{English.date(ends["to"])}) before it starts (#{English.date(ends["from"])})")
      end

      def values(given, operator, field, place)
        return range(given, field, place) if operator == "between"
        return value(given, field, "#{place}.value") unless Comparison::WITH_LIST.include?(operator)
        return @faults.add("#{place}.value", "choose at least one value") unless given.is_a?(Array) && given.any?

        found = given.each_with_index.map { |entry, index| value(entry, field, "#{place}.value[#{index}]") }
        found if found.none?(&:nil?)
      end

      def range(given, field, place)
        return @faults.add("#{place}.value", "give both ends of the range") unless given.is_a?(Array) && given.size == 2

        first, last = given.each_with_index.map { |entry, index| value(entry, field, "#{place}.value[#{index}]") }
        return if first.nil? || last.nil?
        return [first, last] if first <= last

        @faults.add("#{place}.value", "the lower limit (#{given[0]}) is greater than the upper limit (#{given[1]})")
      end

      def value(value, field, place)
        fits = case field.type
               when "text", "list" then value.is_a?(String)
               when "number" then value.is_a?(Numeric) && value.to_f.finite?
               when "boolean" then [true, false].include?(value)
               when "date", "time" then return day(value, place)
               end
        return value if fits

        @faults.add(place, "\"#{field.name}\" is #{TYPES[field.type]}; " \
                           "#{value.nil? ? "give a value to compare with" : "#{value.inspect} is not"}")
      end
    end
  end
end
