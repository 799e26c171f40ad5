# frozen_string_literal: true

require_relative "server_helper"

RSpec.describe "a crash in the middle of a load" do
  let(:stack) { CrashStack.new(File.join(ROOT, "var/crash")) }
  let(:key) { stack.estrel("source", "add", "app")[/ek_\S+/] }

  after { stack.stop }

  def batch(number)
    JSON.generate(Array.new(40) { |index| { specversion: "1.0", id: "#{number}-#{index}", source: "app", type: "ride_ended", subject: "visitor:#{(number + index) % 50}", time: "2026-05-03T10:00:00Z", data: { n: index } } })
  end

  # Sends until nothing is left; a batch that was not acknowledged stays in the list.
  def send_batches(waiting)
    uri = URI("#{stack.collector}/events")
    headers = { "authorization" => "Bearer #{key}", "content-type" => "application/cloudevents-batch+json" }
    until waiting.empty?
      number = waiting.pop(true)
      answer = begin
        Net::HTTP.post(uri, batch(number), headers)
      rescue SystemCallError, EOFError, Net::OpenTimeout, Net::ReadTimeout
        nil
      end
      waiting << number unless answer.is_a?(Net::HTTPOK)
      sleep 0.05 unless answer.is_a?(Net::HTTPOK)
    end
  rescue ThreadError
    nil # another sender took the last one
  end

  it "ends with exactly the events sent, once the sender has sent again what was not acknowledged" do
    stack.start(:collector)
    expect(key).to start_with("ek_")
    random = Random.new(Integer(ENV.fetch("CRASH_SEED", Random.rand(1 << 30).to_s)))
    waiting = Queue.new
    600.times { |number| waiting << number }
    senders = Array.new(4) { Thread.new { send_batches(waiting) } }
    %i[collector database collector database].each do |victim|
      sleep 0.2 + random.rand
      stack.kill(victim)
      stack.restart(victim)
    end
    expect(waiting.size).to be_positive, "the load ended before the last crash"
    senders.each(&:join)
    expected = (0...600).flat_map { |number| (0...40).map { |index| "#{number}-#{index}" } }
    expect(stack.query("SELECT event_key FROM events").flatten).to match_array(expected), "seed #{random.seed}"
    expect(stack.query("SELECT COUNT(*) FROM identifiers")).to eq([[50]])
    expect(stack.query("SELECT COUNT(*) FROM profiles")).to eq([[50]])
  end
end
