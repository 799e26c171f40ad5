# frozen_string_literal: true

module EstrelServer
  module Answers
    # The connection of whoever waits for an answer.
    module Asker
      # Nothing is read from it: a further request may have been sent already.
      #
      # @param socket [BasicSocket]
      # @return [Boolean] whether it has been closed, as a browser does when the question has changed meanwhile
      def self.gone?(socket)
        rest = socket.recv_nonblock(1, Socket::MSG_PEEK, exception: false)
        rest.nil? || rest == ""
      rescue SystemCallError, IOError
        true
      end
    end
  end
end
