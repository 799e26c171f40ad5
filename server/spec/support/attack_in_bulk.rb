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

  # Downloads that nobody reads leave threads for others.
  def unread_downloads
    sockets = Array.new(60) do
      socket = Socket.new(:INET, :STREAM)
      socket.setsockopt(:SOCKET, :RCVBUF, 2_048)
      socket.connect(Addrinfo.tcp("127.0.0.1", stack.settings.port))
      socket.tap { |open| open.write("GET /api/analyses HTTP/1.1\r\nHost: 127.0.0.1\r\nAuthorization: Bearer #{@viewer}\r\n\r\n") }
    end
    sleep 1
    slow = Array.new(10) { now.then { |started| [ask("get", "/session").first, now - started] } }
    odd = slow.reject { |status, seconds| status == 200 && seconds < 2 }
    [60, odd.map { |status, seconds| "#{status} after #{seconds.round(1)} s" }]
  ensure
    sockets&.each(&:close)
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

  def endless_file = cancelled_file("1,ride_ended,customer:1,\"never closed\n", "3\n" * 20_000_000)

  def blank_lines = cancelled_file("1,ride_ended,customer:1,2026-05-03T10:00:00Z\n", "\n" * 400_000_000)

  def cancelled_file(*rows)
    packed = StringIO.new("".b)
    Zlib::GzipWriter.wrap(packed) { |gzip| ["id,type,subject,time\n", *rows].each { |text| gzip.write(text) } }
    boundary = "x#{SecureRandom.hex(8)}"
    body = "--#{boundary}\r\nContent-Disposition: form-data; name=\"file\"; filename=\"x.csv.gz\"\r\n\r\n".b + packed.string + "\r\n--#{boundary}--\r\n".b
    status, answer = ask("post", "/imports", body, type: "multipart/form-data; boundary=#{boundary}")
    return [1, ["the upload: #{status} #{answer[0, 200]}"]] unless status == 201

    id = JSON.parse(answer)["id"]
    sleep 2
    started = now
    ask("post", "/imports/#{id}/cancel")
    state = nil
    @estrel.wait(10) { (state = JSON.parse(ask("get", "/imports/#{id}").last)["state"]) == "cancelled" }
    [1, state == "cancelled" && now - started < 2.5 ? [] : ["#{state} after #{(now - started).round(1)} s"]]
  end

  # A receiver that never comes to the end of its head holds up neither the run nor others. It stands in the place of
  # the stand-in, which may be reached without TLS.
  def slow_receiver
    @estrel.without("stand-in") { cancelled_push }
  end

  def cancelled_push
    receiver = TCPServer.new("127.0.0.1", stack.settings.stand_in_port)
    called = Queue.new
    accepting = Thread.new { loop { drip(receiver.accept.tap { called << true }) } }
    settings = { url: "#{stack.stand_in}/", batch_size: 5, timeout: 2 }
    destination = kept("/destinations", { name: "Slow", kind: "webhook", settings: settings })
    run = run_of(destination_id: destination, name: "Slow")
    called.pop
    started = now
    post("/runs/#{run}/cancel", {})
    @estrel.wait(10) { state_of(run) == "cancelled" }
    took = now - started
    [1, took < 4 ? [] : ["#{state_of(run)} after #{took.round(1)} s"]]
  ensure
    accepting&.kill
    receiver&.close
  end

  def drip(socket)
    Thread.new do
      socket.write("HTTP/1.1 200 OK\r\nx: ")
      loop { socket.write("y") && sleep(0.2) }
    rescue SystemCallError
      socket.close
    end
  end

  # Nobody is in a file who was erased before it was written or while it was.
  def erased_people
    customers = Array.new(5) { |number| "race-#{number}" }
    customers.each { |customer| sent_by(customer) }
    gave_way = customers.flat_map.with_index do |customer, index|
      id = person_of(customer)
      erasing = Thread.new { post("/people/#{id}/erase", { confirm: "erase this person", reason: "asked" }).first }
      run = run_of(name: "Race #{index}")
      @estrel.wait(30) { %w[done failed].include?(state_of(run)) }
      lines = ask("get", "/runs/#{run}/file").last.lines(chomp: true)
      status = erasing.value
      left = lines.any? { |line| line.split(",").first == customer }
      [status == 200 ? nil : "erasing: #{status}", left ? "#{customer} is in the file of run #{run}" : nil].compact
    end
    [customers.size, gave_way]
  end

  # Somebody of whom the load sends nothing.
  def sent_by(customer)
    event = { specversion: "1.0", id: customer, source: "app", type: "ride_ended", subject: "customer:#{customer}", time: "2026-05-03T10:00:00Z", data: {} }
    headers = { "authorization" => "Bearer #{@estrel.key}", "content-type" => "application/cloudevents+json" }
    Net::HTTP.post(URI("#{stack.collector}/events"), JSON.generate(event), headers)
  end

  # Once the ledger has the person.
  def person_of(customer)
    @estrel.wait(20) { JSON.parse(ask("get", "/people?search=customer:#{customer}").last)["rows"]&.first&.fetch("id") }
  end

  # @return [Integer] number of a run that has been started
  def run_of(name:, **given)
    @everybody ||= JSON.parse(ask("get", "/audiences").last)["audiences"].first["id"]
    export = kept("/exports", { name: name, audience_id: @everybody, rules: { columns: [{ take: "identifier:customer" }] }, **given })
    kept("/exports/#{export}/runs", {})
  end

  def kept(path, given)
    status, answer = post(path, given)
    raise "#{path}: #{status} #{answer[0, 300]}" unless status == 201

    JSON.parse(answer)["id"]
  end

  def state_of(run) = JSON.parse(ask("get", "/runs/#{run}").last)["state"]

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
