# frozen_string_literal: true

module Bench
  # Light questions beside a heavy one, at demo size: how long previews of an audience take while somebody else's
  # question of about twenty seconds is being answered, and while none is. Then, of every analysis that takes long, how
  # soon it tells how far it is.
  class Together
    SECONDS = 20
    PER_SECOND = 20
    HEAVY = { "all" => Array.new(4) do |index|
      { "order" => { "steps" => [{ "event" => "trip_planned" },
                                 { "event" => "ride_ended", "within" => { "days" => index + 2 } },
                                 { "event" => "pass_bought", "next" => true }] } }
    end }.freeze

    # A question for each analysis, about a day that nobody has asked about before.
    QUESTIONS = {
      "states" => {}, "states-by-group" => { "by" => { "attribute" => "plan" } },
      "state-movement" => { "from" => "2026-01-01" }, "activity" => {}, "thresholds" => {}, "backtest" => {},
      "revisions" => { "from" => "2026-01-01" }, "overlap" => { "audiences" => [1, 2] },
      "breakdown" => { "by" => { "attribute" => "plan" } },
      "before-after" => { "first" => { "event" => "message_opened" }, "metric" => { "event" => "ride_ended" },
                          "from" => "2026-03-10", "to" => "2026-03-31", "before" => 14, "after" => 14 },
      "campaign-results" => {}, "campaign-days" => { "campaign" => "ride_letter", "channel" => "email" },
      "response-streaks" => {}
    }.freeze

    # @param directory [String] where Estrel lives for this; the demo in it is made the first time
    def initialize(directory)
      @directory = directory
      port = Addrinfo.tcp("127.0.0.1", 0).bind { |socket| socket.local_address.ip_port }
      @uri = URI("http://127.0.0.1:#{port}")
      ENV.update("ESTREL_VAR" => directory, "ESTREL_PORT" => port.to_s, "APP_ENV" => "production",
                 "RACK_ENV" => "production", "ESTREL_DEMO" => "on")
      FileUtils.mkdir_p(directory)
    end

    # @return [void] prints what it measures
    def run
      processes = Processes.new(@directory)
      system(Processes::ESTREL, "setup", out: File::NULL, exception: true)
      EstrelServer::Database.new(EstrelServer.settings).during do
        processes.during("serve") do
          Processes.wait_for("#{@uri}/api/session")
          sign_in
          measure
        end
      end
    end

    private

    def sign_in
      answer = Net::HTTP.post(@uri + "/api/session/demo", "{}", "content-type" => "application/json")
      @cookie = answer["set-cookie"][/[^;]+/]
    end

    def measure
      3.times { |number| preview(number) }
      report("alone", light)
      asked = Thread.new { Clock.timed { post("/api/audiences/trend", { definition: HEAVY }) } }
      sleep 0.5
      report("beside a heavy question", light)
      answer, seconds = asked.value
      puts format("the heavy question took %<seconds>.1f s (%<status>s)", seconds: seconds, status: answer.code)
      progress
    end

    def progress
      told = QUESTIONS.map { |name, question| [name, *first_word(name, { as_of: "2026-10-29", **question })] }
      told.sort_by { |_, _, all| -all }.each do |name, first, all|
        puts format("%<name>-20s first word after %<first>5.0f ms, answer after %<all>6.0f ms",
                    name: name, first: first * 1000, all: all * 1000)
      end
    end

    # @return [Array(Float, Float)] seconds until the first event of the stream, and until its end
    def first_word(name, question)
      request = Net::HTTP::Post.new("/api/analyses/#{name}", "content-type" => "application/json",
                                                             "accept" => "text/event-stream", "cookie" => @cookie)
      request.body = JSON.generate(question)
      started = Clock.now
      first = nil
      Net::HTTP.start(@uri.host, @uri.port, read_timeout: 120) do |http|
        http.request(request) do |response|
          raise "#{name}: #{response.code} #{response.body}" unless response.is_a?(Net::HTTPOK)

          response.read_body { first ||= Clock.now - started }
        end
      end
      [first, Clock.now - started]
    end

    # A preview every so often, whether or not those before have been answered.
    def light
      started = Clock.now
      asked = Array.new(SECONDS * PER_SECOND) do |number|
        wait = started + (number / PER_SECOND.to_f) - Clock.now
        sleep wait if wait.positive?
        Thread.new { Clock.timed { preview(number) } }
      end
      asked.map { |thread| thread.value.last }
    end

    def preview(number)
      @number = (@number || 0) + 1
      definition = { "all" => [{ "did" => { "event" => "ride_ended", "count" => { "at_least" => 1 + (number % 5) },
                                            "window" => { "last_days" => 10 + (@number % 300) } } },
                               { "attribute" => { "name" => "plan", "compare" => "is", "value" => "monthly pass" } }] }
      answer = post("/api/audiences/preview", { definition: definition })
      raise "#{answer.code} #{answer.body}" unless answer.is_a?(Net::HTTPOK)
    end

    def post(path, body)
      http = Net::HTTP.new(@uri.host, @uri.port)
      http.read_timeout = 120
      http.post(path, JSON.generate(body), "content-type" => "application/json", "cookie" => @cookie)
    end

    def report(name, seconds)
      at = ->(share) { seconds.sort[((seconds.size - 1) * share).round] * 1000 }
      puts format("%<name>-26s p50 %<half>6.0f ms   p95 %<most>6.0f ms   longest %<longest>6.0f ms",
                  name: name, half: at.call(0.5), most: at.call(0.95), longest: at.call(1))
    end
  end
end
