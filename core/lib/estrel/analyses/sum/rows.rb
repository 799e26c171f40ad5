# frozen_string_literal: true

module Estrel
  module Analyses
    module Sum
      # Rows of a data frame, each with how often it is there, that can be taken away again.
      class Rows
        include Reversible

        # @param frame [Polars::DataFrame]
        # @return [Rows] each of its rows once
        def self.of(frame) = new(frame.with_columns([Polars.lit(1).cast(Polars::Int64).alias("n")]))

        # @param frames [Array<Polars::DataFrame>] with `n`, how often each row is there; to be added up
        def initialize(*frames)
          @frames = frames
          @added = false
        end

        # @return [Polars::DataFrame] every row that is there, with `n`, in no order
        def frame
          return frames.first if @added

          rows = Polars.concat(frames)
          n = Polars.col("n")
          rows = rows.lazy.group_by(rows.columns - ["n"]).agg([n.sum]).filter(n != 0).collect
          @added = true
          (@frames = [rows]).first
        end

        # @param other [Rows]
        # @return [Rows]
        def +(other) = Rows.new(*frames, *other.frames)

        # @param other [Rows] of these
        # @return [Rows] the others
        def -(other)
          Rows.new(*frames, *other.frames.map { |frame| frame.with_columns([Polars.col("n") * -1]) })
        end

        # @return [Integer] bytes
        def estimated_size = frames.sum(&:estimated_size)

        protected

        attr_reader :frames
      end
    end
  end
end
