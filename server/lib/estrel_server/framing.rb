# frozen_string_literal: true

module EstrelServer
  # Objects of ours, one after the other, between processes of one machine.
  module Framing
    module_function

    # @param io [IO]
    # @param message [Object]
    # @return [void]
    def write(io, message)
      bytes = Estrel::Transit.dump(message)
      io.write([bytes.bytesize].pack("Q>"), bytes)
    end

    # @param io [IO]
    # @return [Object, nil] the next message; nil where the other end has gone, or sends something else
    def read(io)
      size = io.read(8) or return
      bytes = io.read(size.unpack1("Q>"))
      Estrel::Transit.load(bytes) if bytes&.bytesize == size.unpack1("Q>")
    rescue SystemCallError, IOError, ArgumentError, TypeError
      nil
    end
  end
end
