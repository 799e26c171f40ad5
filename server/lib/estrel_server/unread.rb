# frozen_string_literal: true

module EstrelServer
  # Rack middleware that closes connections on which nothing of a response is read for some time, so that downloads
  # which nobody reads hold no thread.
  class Unread
    SECONDS = 30

    # @param app [#call]
    # @param seconds [Numeric]
    def initialize(app, seconds: SECONDS)
      @app = app
      @milliseconds = (seconds * 1000).to_i
    end

    def call(env)
      socket = env["puma.socket"]
      socket.setsockopt(Socket::IPPROTO_TCP, Socket::TCP_USER_TIMEOUT, @milliseconds) if socket.is_a?(TCPSocket)
      @app.call(env)
    end
  end
end
