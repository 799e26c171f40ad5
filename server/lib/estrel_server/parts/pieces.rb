# frozen_string_literal: true

module EstrelServer
  module Parts
    # What a holder of parts sends back about one of them: that it has taken the question, and then the answer, in
    # pieces as large as the connection takes. Each names the holder, since two may be asked for the same.
    module Pieces
      # Signs in the name of a holder.
      NAME = 22
      HEAD = "a#{NAME}NN".freeze
      HEAD_SIZE = NAME + 8
      # Bytes of a piece; NATS takes 1 MiB at a time unless told otherwise.
      SIZE = 512 * 1024
      private_constant :HEAD, :HEAD_SIZE

      module_function

      # @param holder [String]
      # @param sealed [String]
      # @return [String] that the question has been taken
      def taken(holder, sealed) = [holder, 0, 0].pack(HEAD) + sealed

      # @param holder [String]
      # @param sealed [String]
      # @return [Array<String>] an answer
      def cut(holder, sealed)
        count = [sealed.bytesize.fdiv(SIZE).ceil, 1].max
        Array.new(count) { |at| [holder, at + 1, count].pack(HEAD) + sealed.byteslice(at * SIZE, SIZE) }
      end

      # @param bytes [String]
      # @return [Array(String, Integer, Integer, String), nil] the holder, which piece it is, from 1 on, of how many,
      #   and the piece; 0 of 0 where the question has been taken
      def read(bytes)
        return if bytes.bytesize < HEAD_SIZE

        [*bytes.unpack(HEAD), bytes.byteslice(HEAD_SIZE..)]
      end
    end
  end
end
