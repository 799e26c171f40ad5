# frozen_string_literal: true

module Estrel
  module Audience
    # One comparison of an attribute or a property with a value, under the null rule: a missing value satisfies only
    # `is_not_set` and the negative comparisons `is_not` and `does_not_contain`.
    #
    # Frozen. `value` is text, a number, a boolean, or for the types "date" and "time" a `Date`.
    class Comparison
      FOR_TYPE = {
        "text" => %w[is is_not contains does_not_contain is_set is_not_set],
        "number" => %w[is is_not greater at_least less at_most is_set is_not_set],
        "boolean" => %w[is is_not is_set is_not_set],
        "date" => %w[is is_not before after is_set is_not_set],
        "time" => %w[is is_not before after is_set is_not_set],
        "list" => %w[contains does_not_contain is_set is_not_set]
      }.freeze
      WITHOUT_VALUE = %w[is_set is_not_set].freeze
      NEGATIVE = %w[is_not does_not_contain is_not_set].freeze

      # @return [String] one of the comparisons of {FOR_TYPE}
      attr_reader :operator
      # @return [String, Numeric, Boolean, Date, nil]
      attr_reader :value
      # @return [String] one of {Catalogue::TYPES}
      attr_reader :type

      # @param operator [String]
      # @param value [String, Numeric, Boolean, Date, nil]
      # @param type [String] of the field compared
      # @param ignore_case [Boolean] for text only
      def initialize(operator, value, type:, ignore_case: false)
        @operator = operator
        @value = value.is_a?(String) ? value.dup.freeze : value
        @type = type
        @ignore_case = ignore_case
        freeze
      end

      # @return [Boolean] whether text is compared without regard to case
      def ignore_case? = @ignore_case

      # @param column [Polars::Expr] the typed values
      # @param calendar [Calendar] for comparing times with days
      # @return [Polars::Expr] boolean, never null
      def expression(column, calendar)
        return column.is_not_null if operator == "is_set"
        return column.is_null if operator == "is_not_set"

        positive(column, calendar).fill_null(NEGATIVE.include?(operator))
      end

      # @return [Hash] plain JSON
      def to_h
        { "compare" => operator, "value" => value.is_a?(Date) ? value.iso8601 : value,
          "ignore_case" => ignore_case? || nil }.compact
      end

      private

      def positive(column, calendar)
        case type
        when "date" then return date(column)
        when "time" then return time(column, calendar)
        when "list" then return list(column)
        end

        column, wanted = ignore_case? ? [column.str.to_lowercase, value.downcase] : [column, value]
        case operator
        when "is" then column == wanted
        when "is_not" then column != wanted
        when "contains" then column.str.contains(wanted, literal: true)
        when "does_not_contain" then column.str.contains(wanted, literal: true).is_not
        else number(column)
        end
      end

      def number(column)
        case operator
        when "greater" then column > value
        when "at_least" then column >= value
        when "less" then column < value
        when "at_most" then column <= value
        end
      end

      def date(column)
        day = Calendar.number(value)
        case operator
        when "is" then column == day
        when "is_not" then column != day
        when "before" then column < day
        when "after" then column > day
        end
      end

      # A list contains a text when one of its entries is that text.
      def list(column)
        found = (ignore_case? ? column.list.eval(Polars.element.str.to_lowercase) : column)
                .list.contains(Polars.lit(ignore_case? ? value.downcase : value))
        operator == "contains" ? found : found.is_not
      end

      # A time *is* a day when it falls on it; *before* means before that day began, *after* means after it ended.
      def time(column, calendar)
        first = calendar.start_of(value)
        after = calendar.end_of(value)
        case operator
        when "is" then (column >= first) & (column < after)
        when "is_not" then (column < first) | (column >= after)
        when "before" then column < first
        when "after" then column >= after
        end
      end
    end
  end
end
