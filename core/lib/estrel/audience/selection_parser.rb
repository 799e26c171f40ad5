# frozen_string_literal: true

module Estrel
  module Audience
    # Reads which events a condition is about, with the conditions on their properties.
    class SelectionParser
      # @param catalogue [Catalogue]
      # @param fields [FieldParser]
      # @param faults [Faults]
      def initialize(catalogue, fields, faults)
        @catalogue = catalogue
        @fields = fields
        @faults = faults
      end

      # @param body [Hash] with `event`, `events` or `any_event`, and `where`
      # @param place [String]
      # @return [Selection, nil] nil where a fault was found
      def read(body, place)
        named = %w[event events any_event].select { |key| body.key?(key) }
        return @faults.add(place, "choose at least one event type") unless named.one?

        types = types(body, named.first, place) or return
        where = group("all", body["where"] || [], types, "#{place}.where")
        where && Selection.new(named.first == "any_event" ? nil : types.map(&:name), where)
      end

      # @param rows [Array<Hash>, nil] conditions on its events besides its own
      # @param selection [Selection]
      # @param place [String]
      # @return [FilterGroup, nil] nil where there is a fault
      def conditions(rows, selection, place) = group("all", rows || [], selection.types(@catalogue), place)

      # @param json [Hash]
      # @param selection [Selection]
      # @param place [String]
      # @return [Measure, nil]
      def measure(json, selection, place)
        field = field(json["of"], selection.types(@catalogue), "#{place}.of") or return
        return value_measure(json, field, place) if Measure::VALUES.include?(json["take"])

        unless field.type == "number" || json["take"] == "distinct"
          return @faults.add("#{place}.take", "“#{field.name}” is not a number: choose distinct, first, last or most " \
                                              "frequent")
        end
        unless Measure::COMPARISONS.include?(json["compare"])
          return @faults.add("#{place}.compare", "choose a comparison: #{English.either(Measure::COMPARISONS)}")
        end

        number = Catalogue::Field.new(name: "#{json["take"]} of #{field.name}", type: "number", mixed: false)
        comparison = @fields.comparison(json, number, place)
        comparison && Measure.new(json["take"], field.name, comparison)
      end

      # @param json [Hash] `event` and `property`
      # @param place [String]
      # @return [Hash{String => String}, nil] the same, by the names that are in use; nil where that is no number
      def number(json, place)
        type = types(json, "event", place)&.first or return
        field = field(json["property"], [type], "#{place}.property") or return
        return { "event" => type.name, "property" => field.name } if field.type == "number"

        @faults.add("#{place}.property", "\"#{field.name}\" of \"#{type.name}\" is not a number")
      end

      private

      def value_measure(json, field, place)
        comparison = @fields.comparison(json, field, place)
        comparison && Measure.new(json["take"], field.name, comparison)
      end

      def types(body, key, place)
        return @catalogue.event_types.values if key == "any_event"

        names = Array(body[key])
        found = names.each_with_index.map do |name, index|
          where = key == "event" ? "#{place}.event" : "#{place}.events[#{index}]"
          @catalogue.event_type(name) || @faults.add(where, "there is no event type \"#{name}\"", name,
                                                     @catalogue.event_types.keys)
        end
        found.none?(&:nil?) ? found.uniq : nil
      end

      def group(kind, rows, types, place)
        filters = rows.each_with_index.map { |row, index| filter(row, types, "#{place}[#{index}]") }
        FilterGroup.new(kind, filters) if filters.none?(&:nil?)
      end

      def filter(row, types, place)
        kind = %w[all any].find { |key| row.key?(key) }
        return group(kind, row[kind], types, "#{place}.#{kind}") if kind

        return attribute_filter(row, place) if row.key?("attribute")
        return so_far_filter(row, place) if row.key?("so_far")

        field = field(row["property"], types, "#{place}.property") or return
        comparison = @fields.comparison(row, field, place)
        comparison && Filter.new(field.name, comparison)
      end

      def attribute_filter(row, place)
        field = @catalogue.attributes[row["attribute"]]
        unless field
          return @faults.add("#{place}.attribute", "there is no attribute \"#{row["attribute"]}\"", row["attribute"],
                             @catalogue.attributes.keys)
        end

        comparison = @fields.comparison(row, field, place)
        comparison && AttributeFilter.new(field.name, comparison)
      end

      def so_far_filter(row, place)
        number = Catalogue::Field.new(name: "so far", type: "number", mixed: false)
        asked = row["so_far"]
        so_far = asked == SoFarFilter::MINUTES ? asked : number(asked, "#{place}.so_far")
        comparison = @fields.comparison(row, number, place)
        so_far && comparison && SoFarFilter.new(so_far, comparison)
      end

      # A property of the event types, of one type on all that have it.
      def field(name, types, place)
        fields = types.filter_map { |type| type.properties[name] }
        owner = types.one? ? "\"#{types.first.name}\"" : "any of these event types"
        if fields.empty?
          return @faults.add(place, "there is no property \"#{name}\" on #{owner}", name, types.flat_map do |type|
            type.properties.keys
          end.uniq)
        end
        return fields.first if fields.map(&:type).uniq.one?

        @faults.add(place,
                    "\"#{name}\" is of different types on these event types: #{fields.map(&:type).uniq.join(", ")}")
      end
    end
  end
end
