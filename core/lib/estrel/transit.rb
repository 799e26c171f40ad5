# frozen_string_literal: true

require "stringio"

module Estrel
  # Objects of ours as bytes, data frames among them, for another process that runs the same code. Never to be read from
  # anywhere else: whoever takes them from a network has to know first who sent them.
  module Transit
    # How a data frame travels.
    module Frame
      def marshal_dump = OnePiece.of(self).write_ipc(nil)

      def marshal_load(bytes)
        self._df = Polars.read_ipc(StringIO.new(bytes), memory_map: false)._df
      end
    end

    # How a series travels: as the only column of a frame.
    module Column
      def marshal_dump = Polars::DataFrame.new([self]).marshal_dump

      def marshal_load(bytes)
        self._s = Polars.read_ipc(StringIO.new(bytes), memory_map: false).to_series._s
      end
    end

    Polars::DataFrame.include(Frame)
    Polars::Series.include(Column)
    private_constant :Frame, :Column

    module_function

    # @param object [Object]
    # @return [String]
    # @raise [TypeError] where something in it cannot travel
    def dump(object) = Marshal.dump(object)

    # @param bytes [String] of {dump}
    # @return [Object]
    def load(bytes) = Marshal.load(bytes) # rubocop:disable Security/MarshalLoad
  end
end
