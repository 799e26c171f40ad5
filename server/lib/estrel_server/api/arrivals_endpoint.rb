# frozen_string_literal: true

module EstrelServer
  module API
    # What is received, as it is received, and how late it comes.
    class ArrivalsEndpoint < Endpoint
      PAGE = 100
      LATENESS_DAYS = 90

      get("/arrivals") do
        cursor = ArrivalsFeed::Cursor.now
        rows = feed.rows(whole("per_page", PAGE, 1..500))
        respond({ cursor: cursor.to_s, rows: rows })
      end

      # Server-sent events: every event is a list of rows, its id the cursor to go on from.
      get("/arrivals/live") do
        cursor = ArrivalsFeed::Cursor.read(request.env["HTTP_LAST_EVENT_ID"] || params["after"]) || ArrivalsFeed::Cursor.now
        headers("content-type" => "text/event-stream", "cache-control" => "no-store", "x-accel-buffering" => "no")
        unless request.env["rack.hijack?"]
          rows = feed.rows(PAGE, after: cursor)
          halt 200, LiveFeed.message(ArrivalsFeed::Cursor.now, rows)
        end
        headers("rack.hijack" => ->(io) { LiveFeed.shared.add(io, feed, cursor) })
        halt 200, []
      end

      get("/arrivals/lateness") do
        days = whole("days", LATENESS_DAYS, 1..3650)
        arrivals = Estrel::Arrivals.new(generation)
        now = [generation.calendar.end_of(as_of) - 1, micros(Time.now.utc)].min
        result = generation.cache.fetch([:arrivals, as_of, days]) do
          [arrivals.lateness(as_of, days), arrivals.pauses(now)]
        end
        respond({ as_of: as_of, days: days, classes: Estrel::Arrivals::CLASSES.keys, lateness: result[0],
                  sources: result[1].map { |row| describe_pause(row, now) } })
      end

      private

      def feed
        ArrivalsFeed.new(source: given("source"), type: given("type"), identifier: given("identifier"),
                         outcome: one_of("outcome", ArrivalsFeed::OUTCOMES.keys))
      end

      def given(name) = params[name].to_s.empty? ? nil : params[name]

      def micros(time) = (time.to_r * 1_000_000).to_i

      def describe_pause(row, now)
        { source: row[:source], last_received_at: instant(Time.at(0, row[:last_received_at], :usec).utc),
          quiet_seconds: (now - row[:last_received_at]) / 1_000_000,
          usual_pause_seconds: row[:usual_pause] && (row[:usual_pause] / 1_000_000), silent: row[:silent] }
      end
    end
  end
end
