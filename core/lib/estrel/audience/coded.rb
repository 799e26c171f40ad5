# frozen_string_literal: true

module Estrel
  module Audience
    # Texts of rows as whole numbers, each of which stands for one text, or for none: many times faster to tell apart.
    # Frozen.
    class Coded
      # @param values [Polars::Series] text, or null
      # @return [Array(Array<String, nil>, Polars::Series)] the different ones, the last of which is none, and the place
      #   of each value among these
      def self.numbers(values)
        texts = values.drop_nulls.unique.sort.to_a
        known = Polars::DataFrame.new({ "value" => texts, "code" => (0...texts.size).to_a },
                                      schema_overrides: { "value" => Polars::String, "code" => Polars::Int64 })
        codes = values.alias("value").to_frame.join(known, on: "value", how: "left")
        [[*texts, nil].freeze, codes.select([Polars.col("code").fill_null(texts.size)])["code"]]
      end

      # @return [Polars::Series] "told": the number of each row
      attr_reader :codes

      # @param codes [Polars::Series] null where there is no text
      # @param texts [Array<String, nil>] by number; the last one is none
      def initialize(codes, texts)
        told = Polars.col("told").cast(Polars::Int64).fill_null(texts.size - 1)
        @codes = codes.alias("told").to_frame.select([told])["told"]
        @texts = texts
        freeze
      end

      # @return [Integer] above every number
      def width = @texts.size

      # @param code [Integer]
      # @return [String, nil]
      def text(code) = @texts[code]

      # @param other [Coded] of the same rows
      # @return [Both] both texts of each row
      def beside(other) = Both.new(self, other)

      # Two texts of each row as one, see {Pair}. Knows all that a {Coded} does. Frozen.
      class Both
        # @return [Polars::Series] "told"
        attr_reader :codes

        # @param one [Coded, Both]
        # @param other [Coded, Both]
        def initialize(one, other)
          @one = one
          @other = other
          columns = Polars::DataFrame.new([one.codes.alias("one"), other.codes.alias("other")])
          @codes = columns.select([((Polars.col("one") * other.width) + Polars.col("other")).alias("told")])["told"]
          freeze
        end

        # @return [Integer]
        def width = @one.width * @other.width

        # @param code [Integer]
        # @return [String]
        def text(code) = Pair.text(@one.text(code / @other.width), @other.text(code % @other.width))

        # @param other [Coded, Both]
        # @return [Both]
        def beside(other) = Both.new(self, other)
      end
    end
  end
end
