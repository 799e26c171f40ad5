# frozen_string_literal: true

require "puma"
require "puma/null_io"
require "puma/client"

module EstrelServer
  # Puma writes an answer into a buffer of its connection. When it has, it passes the connection on, and only then
  # empties the buffer: by that time another thread may have written the head of the connection's next answer, which is
  # lost, and the browser reads a body without a head. So each thread has a buffer of its own, since it answers one
  # request at a time. To be removed once Puma empties it earlier (8.0.2, the newest, does not).
  module AnswerBuffers
    # Prepended to `Puma::Client`.
    module OfThread
      # @return [Puma::IOBuffer]
      def io_buffer
        buffer = Thread.current.thread_variable_get(:answer_buffer)
        buffer || Puma::IOBuffer.new.tap { |made| Thread.current.thread_variable_set(:answer_buffer, made) }
      end
    end
    private_constant :OfThread

    # To be called before Puma takes connections.
    #
    # @return [void]
    def self.apply = Puma::Client.prepend(OfThread)
  end
end
