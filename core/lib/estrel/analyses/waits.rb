# frozen_string_literal: true

module Estrel
  module Analyses
    # How long things took, of several kinds that are told apart by a `code`: quantiles told exactly, without the times
    # of everybody in one place. Parts first say how many lie between fixed marks ({.counted}), which tells between
    # which of these a quantile lies, and then what exactly lies there ({.near}).
    class Waits
      # Where bars of waiting times begin, besides the first one, in seconds.
      BARS = [60, 600, 3_600, 21_600, 86_400, 259_200, 604_800, 1_209_600, 2_592_000].freeze
      # Each mark is so many times the one before, in microseconds from one to three hundred years; {BARS} are among
      # them.
      GROWTH = 1.03
      LONGEST = 10**16
      MARKS = [*(0..(Math.log(LONGEST) / Math.log(GROWTH))).map { |power| (GROWTH**power).round },
               *BARS.map { |seconds| seconds * Calendar::MICROS }].uniq.sort.freeze
      # Places of a code: before all marks, and after each.
      WIDTH = MARKS.size + 1
      private_constant :GROWTH, :LONGEST

      # @param rows [Polars::DataFrame] `code` and `wait`, microseconds
      # @return [Polars::DataFrame] `number`, code times {WIDTH} plus place, and `wait`
      def self.placed(rows)
        marks = Polars.lit(Polars::Series.new("marks", MARKS, dtype: Polars::Int64))
        place = marks.search_sorted(Polars.col("wait"), side: "right").cast(Polars::Int64)
        rows.select([((Polars.col("code").cast(Polars::Int64) * WIDTH) + place).cast(Polars::Int32).alias("number"),
                     Polars.col("wait")])
      end

      # @param placed [Polars::DataFrame]
      # @return [Hash{Integer => Integer}] how many there are by number, for {Sum}
      def self.counted(placed) = Lifecycle::Tally.of(placed, Polars.col("number"))

      # @param placed [Polars::DataFrame]
      # @param sought [Array<Integer>] numbers
      # @return [Sum::Rows] what lies under these: `number` and `wait`
      def self.near(placed, sought) = Sum::Rows.of(placed.filter(Polars.col("number").is_in(sought)))

      # @param counts [Hash{Integer => Integer}] see {.counted}, of all parts
      # @param shares [Array<Float>] 0.5 for the median
      def initialize(counts, shares)
        @shares = shares
        @codes = counts.sort_by(&:first).group_by { |number, _| number / WIDTH }
                       .transform_values { |own| own.to_h { |number, count| [number % WIDTH, count] } }
      end

      # @param code [Integer]
      # @return [Array<Integer>, nil] how many lie between one of {BARS} and the next; nil where there are none
      def spread(code)
        places = @codes[code] or return
        starts = BARS.map { |seconds| MARKS.index(seconds * Calendar::MICROS) + 1 }
        [0, *starts, WIDTH].each_cons(2).map { |from, to| places.sum { |at, n| (from...to).cover?(at) ? n : 0 } }
      end

      # @return [Array<Integer>] numbers of what has to be known exactly
      def sought
        ranks = @codes.keys.product(@shares).flat_map do |code, share|
          [place(code, share).floor, place(code, share).ceil].map { |rank| [code, rank] }
        end
        ranks.map { |code, rank| number(code, rank).first }.uniq
      end

      # @param code [Integer]
      # @param share [Float] one of those it was made for
      # @param near [Sum::Rows] see {.near}, of all parts
      # @return [Float, nil] seconds, see {Statistics::Quantile}; nil where there are none
      def quantile(code, share, near)
        return unless @codes.key?(code)

        place = place(code, share)
        low, high = [place.floor, place.ceil].map { |rank| at(near, *number(code, rank)) }
        (low + ((high - low) * (place - place.floor))).fdiv(Calendar::MICROS)
      end

      private

      def size(code) = @codes.fetch(code).each_value.sum

      # Between which two, from 0 on, a quartile lies.
      def place(code, share) = share * (size(code) - 1)

      # The number under which the so-manieth of a code lies, and the how-manieth it is there.
      def number(code, rank)
        @codes.fetch(code).each do |place, count|
          return [(code * WIDTH) + place, rank] if rank < count

          rank -= count
        end
      end

      def at(near, number, rank)
        waits, reached = ordered(near).fetch(number)
        waits[reached.bsearch_index { |count| count > rank }]
      end

      # By number: the waits in order, and how many there are up to each. Made once, since a filter of the frame for
      # each of thousands of codes takes seconds.
      #
      # @return [Hash{Integer => Array(Array<Integer>, Array<Integer>)}]
      def ordered(near)
        return @ordered if @near.equal?(near)

        @near = near
        rows = near.frame.sort(%w[number wait])
        columns = %w[number wait n].map { |name| rows[name].to_a }
        @ordered = columns.transpose.each_with_object({}) do |(number, wait, count), by_number|
          waits, reached = by_number[number] ||= [[], []]
          waits << wait
          reached << ((reached.last || 0) + count)
        end
      end
    end
  end
end
