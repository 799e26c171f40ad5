# frozen_string_literal: true

require "socket"

# Attacks of an {Attack} by sending a lot: questions at once, and bodies without end.
module AttackInBulk
  private

  # Another user is answered, whatever somebody asks at once.
  def questions_at_once
    body = { steps: [{ event: "bike_unlocked" }] * 5, from: "2000-01-01" }
    asking = Array.new(12) { Thread.new { Array.new(10) { post("/analyses/funnel", body, token: @viewer).first } } }
    slow = []
    while asking.any?(&:alive?)
      started = now
      status, = ask("get", "/session")
      slow << "#{status} after #{(now - started).round(1)} s" if status != 200 || now - started > 2
    end
    statuses = asking.flat_map(&:value)
    odd = statuses.tally.except(200, 409, 422, 429)
    [statuses.size, slow + odd.map { |status, times| "#{status} #{times} times" }]
  end

  # Whoever is not known is refused before the body is read.
  def large_bodies
    collector = URI(stack.collector).port
    targets = [[stack.settings.port, "/api/imports"], [stack.settings.port, "/api/session"], [stack.settings.port, "/"], [collector, "/events"], [collector, "/batch"]]
    gave_way = targets.product([true, false]).filter_map do |(port, path), chunked|
      sent = endless_body(port, path, chunked)
      "#{path}#{" in chunks" if chunked}: #{sent} bytes were taken" if sent > 20_000_000
    end
    [targets.size * 2, gave_way]
  end

  # What the other side does not read stays in buffers of a few megabytes.
  #
  # @return [Integer] bytes that could be sent before the connection was closed or nothing more was taken
  def endless_body(port, path, chunked)
    socket = TCPSocket.new("127.0.0.1", port)
    length = chunked ? "Transfer-Encoding: chunked" : "Content-Length: 2000000000"
    socket.write("POST #{path} HTTP/1.1\r\nHost: 127.0.0.1\r\nContent-Type: application/json\r\n#{length}\r\n\r\n")
    part = chunked ? "10000\r\n#{"x" * 65_536}\r\n" : "x" * 65_536
    sent = 0
    sent += socket.write_nonblock(part) while sent < 40_000_000 && socket.wait_writable(3)
    sent
  rescue SystemCallError, IO::WaitWritable
    sent.to_i
  ensure
    socket&.close
  end
end
