# frozen_string_literal: true

# Machines for a spec, as network namespaces on one bridge, each with an address of its own.
class Hosts
  NET = "10.77.0"
  HERE = "#{NET}.254".freeze

  # @param addresses [Hash{Symbol => Integer}] the last number of each host's address
  def initialize(addresses)
    @addresses = addresses
    @pids = Hash.new { |hash, host| hash[host] = {} }
    @slow = {}
    ip("link add #{bridge} type bridge", "addr add #{HERE}/24 dev #{bridge}", "link set #{bridge} up")
    addresses.each_key { |host| add(host) }
  end

  def address(host) = "#{NET}.#{@addresses.fetch(host)}"

  # Starts a program on a host; what it prints goes to a file.
  def start(host, name, *command, log:, environment: {})
    @pids[host][name] = Process.spawn(environment, "ip", "netns", "exec", space(host), *command, out: [log, "a"], err: %i[child out], pgroup: true)
  end

  # @return [String] what a program on a host has printed
  def run(host, environment, *command) = IO.popen([environment, "ip", "netns", "exec", space(host), *command], &:read)

  def kill(host, name, signal = "KILL")
    pid = @pids[host].delete(name) or return
    Process.kill(signal, -pid)
    Process.wait(pid)
  rescue Errno::ESRCH, Errno::ECHILD
    nil
  end

  # Packets to and from the host vanish, and nobody is told.
  def cut_off(host) = ip("link set #{outside(host)} nomaster")

  # Packets take so much longer each way.
  def slow(host, milliseconds)
    cut_off(host)
    ip("link add #{relay(host)}a type veth peer name #{relay(host)}b", "link set #{relay(host)}a master #{bridge} up", "link set #{relay(host)}b up")
    @slow[host] = Process.spawn("ruby", File.join(__dir__, "slow_link.rb"), milliseconds.to_s, outside(host), "#{relay(host)}b")
  end

  # @return [Boolean] whether they do to any host
  def slow? = @slow.any?

  def mend(host)
    if (pid = @slow.delete(host))
      Process.kill("KILL", pid)
      Process.wait(pid)
      ip("link del #{relay(host)}a")
    end
    ip("link set #{outside(host)} master #{bridge}")
  end

  def remove
    @slow.keys.dup.each { |host| mend(host) }
    @pids.each { |host, started| started.keys.dup.each { |name| kill(host, name) } }
    @addresses.each_key { |host| system("ip", "netns", "del", space(host)) }
    system("ip", "link", "del", bridge)
  end

  private

  def bridge = "br#{Process.pid}"

  def space(host) = "estrel-#{Process.pid}-#{host}"

  def outside(host) = "v#{Process.pid}x#{@addresses.fetch(host)}"

  def relay(host) = "r#{Process.pid}x#{@addresses.fetch(host)}"

  def ip(*lines) = lines.each { |line| system("ip", *line.split, exception: true) }

  def in_space(host, *command, **options) = system("ip", "netns", "exec", space(host), *command, exception: true, **options)

  def add(host)
    ip("netns add #{space(host)}", "link add #{outside(host)} type veth peer name net netns #{space(host)}", "link set #{outside(host)} master #{bridge} up")
    ["addr add #{address(host)}/24 dev net", "link set net up", "link set lo up"].each { |line| in_space(host, "ip", *line.split) }
    # Whole frames with their sums, as they would be on a wire.
    in_space(host, "ethtool", "-K", "net", *%w[tx tso gso gro].flat_map { |what| [what, "off"] }, out: File::NULL)
  end
end
