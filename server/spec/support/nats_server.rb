# frozen_string_literal: true

require "socket"

# A server of NATS on a free port of this machine, until it is stopped.
class NatsServer
  # @param words [Array<String>] further arguments of the server
  def initialize(*words)
    @words = words
    @port = TCPServer.open("127.0.0.1", 0) { |server| server.addr[1] }
    start
  end

  def url(scheme: "nats", host: "127.0.0.1") = "#{scheme}://#{host}:#{@port}"

  def start
    @pid = Process.spawn("nats-server", "-a", "127.0.0.1", "-p", @port.to_s, *@words, out: File::NULL, err: File::NULL)
    sleep 0.02 until reachable?
  end

  def stop
    Process.kill("KILL", @pid)
    Process.wait(@pid)
  end

  private

  def reachable?
    TCPSocket.open("127.0.0.1", @port).close
    true
  rescue SystemCallError
    false
  end
end
