# frozen_string_literal: true

require_relative "server_helper"

RSpec.describe "a crash in the middle of a load" do
  let(:stack) { CrashStack.new(File.join(ROOT, "var/crash")) }
  let(:key) { stack.estrel("source", "add", "app")[/ek_\S+/] }

  after { stack.stop }

  def batch(number)
    JSON.generate(Array.new(40) { |index| { specversion: "1.0", id: "#{number}-#{index}", source: "app", type: "ride_ended", subject: "visitor:#{(number + index) % 50}", time: "2026-05-03T10:00:00Z", data: { n: index } } })
  end

  # Has some batches waiting all the time until it is told that these are enough.
  #
  # @return [Thread] its value is how many there were
  def feed(waiting)
    Thread.new do
      numbers = 0.step
      until Thread.current[:enough]
        waiting.size < 40 ? waiting << numbers.next : sleep(0.002)
      end
      numbers.next
    end
  end

  # Sends until nothing is left; a batch that was not acknowledged stays in the list.
  def send_batches(waiting, feeder)
    uri = URI("#{stack.collector}/events")
    headers = { "authorization" => "Bearer #{key}", "content-type" => "application/cloudevents-batch+json" }
    while feeder.alive? || !waiting.empty?
      number = next_of(waiting) or next
      next if accepted?(uri, headers, number)

      waiting << number
      sleep 0.05
    end
  end

  def next_of(waiting)
    waiting.pop(true)
  rescue ThreadError
    sleep 0.002 # another sender took the last one
    nil
  end

  def accepted?(uri, headers, number)
    Net::HTTP.post(uri, batch(number), headers).is_a?(Net::HTTPOK)
  rescue SystemCallError, EOFError, Net::OpenTimeout, Net::ReadTimeout
    false
  end

  it "ends with exactly the events sent, once the sender has sent again what was not acknowledged" do
    stack.start(:collector)
    expect(key).to start_with("ek_")
    random = Random.new(Checks.seed)
    waiting = Queue.new
    feeder = feed(waiting)
    senders = Array.new(4) { Thread.new { send_batches(waiting, feeder) } }
    %i[collector database collector database].each do |victim|
      sleep 0.2 + random.rand
      stack.kill(victim)
      stack.restart(victim)
    end
    feeder[:enough] = true
    senders.each(&:join)
    expected = (0...feeder.value).flat_map { |number| (0...40).map { |index| "#{number}-#{index}" } }
    expect(stack.query("SELECT event_key FROM events").flatten).to match_array(expected), "seed #{random.seed}"
    expect(stack.query("SELECT COUNT(*) FROM identifiers")).to eq([[50]])
    expect(stack.query("SELECT COUNT(*) FROM profiles")).to eq([[50]])
  end
end
