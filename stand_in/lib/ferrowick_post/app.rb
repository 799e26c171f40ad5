# frozen_string_literal: true

module FerrowickPost
  # The webhook, and one tiny page to see what came in and to ask for trouble.
  class App < Sinatra::Base
    MAX_BODY = 16 << 20
    # Longer than senders wait.
    SILENCE = 130
    # When messages of a run go out, after the end of its day.
    SENT_AFTER = 8 * 3600

    set :views, File.expand_path("../../views", __dir__)
    set :host_authorization, { permitted_hosts: ["127.0.0.1", "localhost"] }
    set :show_exceptions, false

    get("/health") { "ok" }

    get("/") do
      @settings = ServiceSetting.current
      @runs = Message.group(:run, :campaign, :channel).order(Arel.sql("MAX(id) DESC")).limit(10).count
      @happened = Happening.joins(:message).where(messages: { run: @runs.keys.map(&:first) })
                           .group("messages.run", :kind, :told).count
      @requests = Request.order(id: :desc).limit(12)
      erb :page
    end

    post("/settings") do
      allowed = params.slice("collector", "sending_key", "day_seconds", "trouble", "trouble_left")
      allowed.delete("sending_key") if params["sending_key"].to_s.empty?
      switches = %w[twice shuffled].to_h { |name| [name, params[name] == "on"] }
      ServiceSetting.current.update!(allowed.merge(switches))
      redirect "/"
    rescue ActiveRecord::RecordInvalid => e
      halt 422, Rack::Utils.escape_html(e.message)
    end

    post("/batches") do
      Turn.take
      body = request.body.read(MAX_BODY + 1).to_s
      halt 413 if body.bytesize > MAX_BODY
      json = verified(body)
      answer(json["data"] || {}, ServiceSetting.current.next_trouble)
    end

    # How many people there are of each run, by this service's own record.
    get("/record") do
      content_type :json
      JSON.generate(Message.group(:run).count)
    end

    private

    def verified(body)
      headers = %w[id timestamp signature].to_h do |name|
        ["webhook-#{name}", request.env["HTTP_WEBHOOK_#{name.upcase}"]]
      end
      StandardWebhooks::Webhook.new(ServiceSetting.current.secret).verify(body, headers)
      JSON.parse(body)
    rescue StandardWebhooks::WebhookVerificationError => e
      refuse(401, e.message)
    rescue JSON::ParserError
      refuse(400, "that is no JSON")
    end

    def answer(data, trouble)
      people = data["people"] || []
      case trouble
      when "busy" then note(429, people) && halt(429, { "retry-after" => "2" }, "")
      when "error" then refuse(500, "something broke here", people)
      when "page" then note(200,
                            people) && halt(200, { "content-type" => "text/html" },
                                            "<!doctype html><title>Welcome</title>")
      when "silence" then sleep(SILENCE)
      when "dies" then die(data, people)
      else take(data, people, trouble)
      end
    end

    def take(data, people, trouble)
      refused = trouble == "refuses" ? people.select { |person| person["key"].hex.modulo(4).zero? } : []
      Record.transaction { note(200, people, Message.take(data, people - refused, sent_at(data))) }
      sleep(SILENCE) if trouble == "late"
      content_type :json
      JSON.generate({ refused: refused.map { |person| { key: person["key"], reason: "the address is blocked here" } } })
    end

    # Takes the first half, and is gone.
    def die(data, people)
      Message.take(data, people.first(people.size / 2), sent_at(data))
      Process.kill("KILL", Process.pid)
      sleep
    end

    # In the morning after the run's date, or now, whichever is earlier.
    def sent_at(data)
      now = Time.now.utc
      return now unless data["as_of"]

      day = Date.iso8601(data["as_of"]) + 1
      [Time.utc(day.year, day.month, day.day) + SENT_AFTER, now].min
    end

    def note(status, people, fresh = 0)
      Request.create!(webhook_id: request.env["HTTP_WEBHOOK_ID"].to_s, status: status, people: people.size,
                      fresh: fresh, came_at: Time.now.utc)
    end

    def refuse(status, detail, people = [])
      note(status, people)
      content_type :json
      halt status, JSON.generate({ detail: detail })
    end
  end
end
