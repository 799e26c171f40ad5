# frozen_string_literal: true

module Estrel
  class Ledger
    # The most frequent values of an attribute or of a property, for completing what is typed.
    class TopValues
      LIMIT = 50

      # @param generation [Generation]
      def initialize(generation)
        @generation = generation
      end

      # @param attribute [String, nil]
      # @param event [String, nil] an event type
      # @param property [String, nil] of the event type
      # @return [Array<Hash>] value as text and count, most frequent first
      def of(attribute: nil, event: nil, property: nil)
        frame, column, type = attribute ? of_attribute(attribute) : of_property(event, property)
        return [] if frame.nil? || frame.height.zero?

        values = frame.lazy.select([shown(column, type).alias("value")])
        values = values.explode("value") if type == "list"
        counted = values.drop_nulls.group_by("value").agg([Polars.len.alias("count")]).collect
        counted.sort(%w[count value], reverse: [true, false]).head(LIMIT).rows(named: true)
      end

      private

      def shown(column, type)
        case type
        when "list" then Polars.col(column)
        when "date" then Polars.col(column).cast(Polars::Date).cast(Polars::String)
        else Polars.col(column).cast(Polars::String)
        end
      end

      def of_attribute(name)
        field = @generation.catalogue.attributes[name] or return
        [@generation.profiles, Layout.attribute(name), field.type]
      end

      def of_property(event, property)
        type = event && @generation.catalogue.event_type(event) or return
        field = type.properties[property] or return
        [@generation.events(type.name), Layout.property(property), field.type]
      end
    end
  end
end
