# frozen_string_literal: true

module Estrel
  module Audience
    # Values of a field as text, by which they are told apart: numbers without needless decimals, and a time as the day
    # it falls on.
    module AsText
      module_function

      # @param value [Polars::Expr]
      # @param type [String] one of {Catalogue::TYPES}
      # @param calendar [Calendar]
      # @return [Polars::Expr]
      def of(value, type, calendar)
        case type
        when "number" then value.cast(Polars::String).str.replace('\.0$', "")
        when "boolean" then words(value)
        when "date" then value.cast(Polars::Date).cast(Polars::String)
        when "time" then calendar.day_numbers(value).cast(Polars::Date).cast(Polars::String)
        else value
        end
      end

      # @param text [String] of {of}
      # @param type [String]
      # @return [String, Float, Boolean] as a comparison takes it
      def typed(text, type)
        case type
        when "number" then Float(text)
        when "boolean" then text == "true"
        else text
        end
      end

      # @raise [Invalid] where values of the type tell nothing apart
      def check(type)
        return unless type == "list"

        raise Invalid, [{ place: "", message: "you cannot split by a list: people may have several of its values" }]
      end

      def words(value)
        Polars.when(value).then(Polars.lit("true")).when(value.is_not).then(Polars.lit("false")).otherwise(nil)
      end
      private_class_method :words
    end
  end
end
