# frozen_string_literal: true

module Estrel
  class Ledger
    # The part of a ledger that belongs to some profiles, read as if it were a ledger of its own: what is costly to ask
    # of everybody is cheap to ask of a few.
    class Picked < Part
      # @param whole [Readable]
      # @param ids [Polars::Series] sorted profile ids of the whole
      def initialize(whole, ids)
        super(whole)
        @ids = ids.rechunk
      end

      # The part's rows of a frame: where each profile's begin is found by halving, since files are sorted; then they
      # are taken together.
      #
      # @param frame [Polars::DataFrame] sorted by a column that begins with the profile
      # @param column [String] its name: "profile_id", or "key"
      # @return [Polars::DataFrame]
      def cut(frame, column)
        step = column == "key" ? Layout::KEY_STEP : 1
        found = %w[start after].each_with_index.map do |name, next_one|
          bounds = (@ids + next_one) * step
          frame.select([Polars.col(column).search_sorted(bounds, side: "left").cast(Polars::Int64).alias(name)])[name]
        end
        frame.select([Polars.all.gather(rows(Polars::DataFrame.new(found)))])
      end

      private

      # The numbers of the rows from every start up to what comes after.
      def rows(ranges)
        length = Polars.col("after") - Polars.col("start")
        shifted = ranges.with_columns([length.alias("length"), (length.cum_sum - length).alias("before")])
                        .filter(Polars.col("length") != 0)
                        .select([(Polars.col("start") - Polars.col("before")).repeat_by("length").alias("shift")])
        shift = shifted.explode("shift")["shift"]
        Polars.arange(0, shift.len, eager: true) + shift
      end
    end
  end
end
