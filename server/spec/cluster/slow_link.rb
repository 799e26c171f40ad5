# frozen_string_literal: true

# A process of its own: passes what comes on one network device on to another, and back, after a while.
#
#   ruby slow_link.rb MILLISECONDS DEVICE DEVICE
require "socket"

# Raw frames of a device, see packet(7).
class Device
  FAMILY = 17
  ALL = [3].pack("n").unpack1("S")
  OPTIONS = 263
  IGNORE_OUTGOING = 23
  LARGEST = 65_536

  def initialize(name)
    @socket = Socket.new(FAMILY, Socket::SOCK_RAW, ALL)
    @socket.setsockopt(OPTIONS, IGNORE_OUTGOING, 1)
    @socket.bind([FAMILY, ALL, File.read("/sys/class/net/#{name}/ifindex").to_i].pack("SSl").ljust(20, "\0"))
  end

  # Each way on a thread of its own.
  def pass_on(other, seconds)
    later = Queue.new
    [Thread.new { loop { later << [now + seconds, @socket.recv(LARGEST)] } },
     Thread.new { loop { other.give(*later.pop) } }]
  end

  def give(at, frame)
    wait = at - now
    sleep(wait) if wait.positive?
    @socket.send(frame, 0)
  end

  private

  def now = Process.clock_gettime(Process::CLOCK_MONOTONIC)
end

one, other = ARGV.drop(1).map { |name| Device.new(name) }
seconds = Integer(ARGV.first) / 1000.0
[one.pass_on(other, seconds), other.pass_on(one, seconds)].flatten.each(&:join)
