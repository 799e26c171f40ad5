# frozen_string_literal: true

require "socket"

# A port of loopback at which the specs' own database, which has a socket only, is reached as if it were elsewhere.
class DatabaseFront
  def initialize
    @connection = EstrelServer::Database.new(EstrelServer.settings).connection
    @server = TCPServer.new("127.0.0.1", 0)
    @thread = Thread.new { loop { pass_on(@server.accept) } }
  end

  def url = "mysql://#{@connection[:username]}:#{@connection[:password]}@127.0.0.1:#{@server.addr[1]}/#{@connection[:database]}"

  def stop
    @thread.kill
    @server.close
  end

  private

  def pass_on(client)
    database = UNIXSocket.new(@connection[:socket])
    [[client, database], [database, client]].each do |from, to|
      Thread.new do
        IO.copy_stream(from, to)
        to.shutdown
      rescue SystemCallError, IOError
        nil # the other end is gone already
      end
    end
  end
end
