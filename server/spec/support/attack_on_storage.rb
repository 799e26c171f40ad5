# frozen_string_literal: true

# Attacks of an {Attack} on what Estrel stores in: locks that are not given back, and a disk that is full.
module AttackOnStorage
  # Statuses of a request that has no room to write, or waits for a lock.
  REFUSALS = [200, 201, 409, 503].freeze

  private

  # Another connection locks the rows of every table that is written to: reads go on, and writes are refused.
  def held_locks
    stack.holding("SELECT * FROM audiences FOR UPDATE", "SELECT * FROM exports FOR UPDATE", "SELECT * FROM workspaces FOR UPDATE") do
      writing = writes.map { |write| Thread.new { ask(*write) } }
      reads = reads_refused while writing.any?(&:alive?) && reads.to_a.empty?
      [writing.size + 1, [*reads, *odd(writing.map(&:value))]]
    end
  end

  # The disk is full: reads go on, writes are refused with a sentence, and nothing that was acknowledged is lost.
  def full_disk
    gave_way = without_room { [*reads_refused, *odd(writes.map { |write| ask(*write) })] }
    served = @estrel.wait(60) { @estrel.served?(@estrel.acknowledged.size) }
    gave_way << "not served any more: #{@estrel.last_status}" unless served
    stored, = post("/audiences", { name: "After the full disk", definition: { all: [] } })
    gave_way << "an audience, with room again: #{stored}" unless stored == 201
    [writes.size + 5, gave_way]
  end

  def without_room
    filler = File.join(@directory, "filler")
    filling = Thread.new do
      loop { File.open(filler, "ab") { |file| loop { file.write("\0" * 65_536) } } }
    rescue Errno::ENOSPC
      sleep(0.05) && retry
    end
    sleep 5
    yield
  ensure
    filling&.kill&.join
    File.delete(filler)
  end

  def writes
    audience = JSON.parse(ask("get", "/audiences").last)["audiences"].first
    [["put", "/audiences/#{audience["id"]}", JSON.generate({ name: "Everybody #{SecureRandom.hex(4)}" })], ["post", "/audiences", JSON.generate({ name: SecureRandom.hex, definition: { all: [] } })],
     ["post", "/exports", JSON.generate({ name: SecureRandom.hex, audience_id: audience["id"], rules: { columns: [{ take: "identifier:customer" }] } })],
     ["put", "/workspace", JSON.generate({ name: "Attacked" })]]
  end

  def reads_refused
    paths = %w[/session /workspace /audiences /exports]
    preview = post("/audiences/preview", { definition: { all: [{ did: { event: "ride_ended", count: { at_least: rand(1..1_000) }, window: { last_days: 30 } } }] } })
    [*paths.map { |path| [path, ask("get", path)] }, ["/audiences/preview", preview]].filter_map do |path, (status, body)|
      "reading #{path}: #{status} #{body[0, 200]}" unless status == 200
    end
  end

  def odd(answers) = answers.reject { |status, body| REFUSALS.include?(status) && (status < 300 || body.include?("detail")) }.map { |status, body| "writing: #{status} #{body[0, 200]}" }
end
