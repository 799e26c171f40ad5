# frozen_string_literal: true

module Estrel
  module Audience
    # One comparison of an attribute or a property with a value, under the null rule: a missing value satisfies only
    # `is_not_set` and the negative comparisons `is_not` and `does_not_contain`.
    #
    # Frozen. `value` is text, a number, a boolean, or for the types "date" and "time" a `Date`.
    class Comparison
      FOR_TYPE = {
        "text" => %w[is is_not contains does_not_contain starts_with ends_with one_of none_of is_set is_not_set],
        "number" => %w[is is_not greater at_least less at_most between one_of none_of is_set is_not_set],
        "boolean" => %w[is is_not is_set is_not_set],
        "date" => %w[is is_not before after between is_set is_not_set],
        "time" => %w[is is_not before after between is_set is_not_set],
        "list" => %w[contains does_not_contain is_set is_not_set]
      }.freeze
      WITHOUT_VALUE = %w[is_set is_not_set].freeze
      NEGATIVE = %w[is_not does_not_contain none_of is_not_set].freeze
      # What says that a comparison does not hold, missing values included.
      OPPOSITES = [%w[is is_not], %w[contains does_not_contain], %w[one_of none_of], %w[is_set is_not_set]]
                  .flat_map { |pair| [pair, pair.reverse] }.to_h.freeze
      # Those that compare with several values: a list of them, or the two ends of a range.
      WITH_LIST = %w[one_of none_of].freeze

      # @return [String] one of the comparisons of {FOR_TYPE}
      attr_reader :operator
      # @return [String, Numeric, Boolean, Date, Array, nil]
      attr_reader :value
      # @return [String] one of {Catalogue::TYPES}
      attr_reader :type

      # @param operator [String]
      # @param value [String, Numeric, Boolean, Date, nil]
      # @param type [String] of the field compared
      # @param ignore_case [Boolean] for text only
      def initialize(operator, value, type:, ignore_case: false)
        @operator = operator
        @value = frozen(value)
        @type = type
        @ignore_case = ignore_case
        freeze
      end

      # @return [Boolean] whether a missing value fits
      def fits_missing? = NEGATIVE.include?(operator)

      # @param number [Numeric]
      # @return [Boolean] whether a number fits
      def fits_number?(number)
        case operator
        when "is" then number == value
        when "is_not" then number != value
        when "between" then number.between?(*value)
        when "one_of" then value.include?(number)
        when "none_of" then !value.include?(number)
        else number.public_send({ "greater" => :>, "at_least" => :>=, "less" => :<, "at_most" => :<= }.fetch(operator),
                                value)
        end
      end

      # @return [Boolean] whether text is compared without regard to case
      def ignore_case? = @ignore_case

      # @return [Comparison, nil] what fits wherever this does not; nil where no single comparison does
      def opposite
        other = OPPOSITES[operator] or return
        Comparison.new(other, value, type: type, ignore_case: ignore_case?)
      end

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
        { "compare" => operator, "value" => value.is_a?(Array) ? value.map { |entry| json(entry) } : json(value),
          "ignore_case" => ignore_case? || nil }.compact
      end

      private

      def json(value) = value.is_a?(Date) ? value.iso8601 : value

      # The order of a list says nothing, that of a range's ends does.
      def frozen(value)
        return value.is_a?(String) ? value.dup.freeze : value unless value.is_a?(Array)

        entries = value.map { |entry| frozen(entry) }
        (WITH_LIST.include?(operator) ? entries.uniq.sort : entries).freeze
      end

      def positive(column, calendar)
        case type
        when "date" then return date(column)
        when "time" then return time(column, calendar)
        when "list" then return list(column)
        end

        return text(column) if type == "text"

        case operator
        when "is" then column == value
        when "is_not" then column != value
        else number(column)
        end
      end

      def text(column)
        column, wanted = ignore_case? ? [column.str.to_lowercase, lower(value)] : [column, value]
        case operator
        when "is" then column == wanted
        when "is_not" then column != wanted
        when "contains" then column.str.contains(wanted, literal: true)
        when "does_not_contain" then column.str.contains(wanted, literal: true).is_not
        when "starts_with" then column.str.starts_with(wanted)
        when "ends_with" then column.str.ends_with(wanted)
        else among(column, wanted)
        end
      end

      def lower(value) = value.is_a?(Array) ? value.map(&:downcase) : value.downcase

      # Written out, since a list of one text would be taken for the name of a column.
      def among(column, wanted)
        found = wanted.map { |entry| column == entry }.reduce(:|)
        operator == "one_of" ? found : found.is_not
      end

      def number(column)
        case operator
        when "greater" then column > value
        when "at_least" then column >= value
        when "less" then column < value
        when "at_most" then column <= value
        when "between" then column.is_between(*value)
        else among(column, value)
        end
      end

      def date(column)
        return column.is_between(*value.map { |end_day| Calendar.number(end_day) }) if operator == "between"

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
        ends = Array(value)
        first = calendar.start_of(ends.first)
        after = calendar.end_of(ends.last)
        case operator
        when "is", "between" then (column >= first) & (column < after)
        when "is_not" then (column < first) | (column >= after)
        when "before" then column < first
        when "after" then column >= after
        end
      end
    end
  end
end
