# frozen_string_literal: true

module Estrel
  # Brings a data frame into one stretch of memory, as it has to be before it is written: Polars 0.15 leaves out the
  # only row of a frame where stretches without rows come before it, as in what a filter has left of several ledger
  # files put below each other. Nor does `DataFrame#rechunk` bring these together.
  module OnePiece
    module_function

    # @param frame [Polars::DataFrame]
    # @return [Polars::DataFrame] the same rows
    def of(frame) = Polars.concat([frame])
  end
end
