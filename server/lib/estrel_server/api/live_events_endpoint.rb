# frozen_string_literal: true

module EstrelServer
  module API
    # What is received, as it is received, and how late it comes.
    class LiveEventsEndpoint < Endpoint
      PAGE = 100
      # No list, since that would be answered as complete.
      NOTHING_YET = [].each.freeze
      private_constant :NOTHING_YET
      LIVE = { "content-type" => "text/event-stream", "cache-control" => "no-store, no-transform",
               "x-accel-buffering" => "no" }.freeze
      LATENESS_DAYS = 90

      get("/live-events", role: "analyst", scope: "write", personal: "raw") do
        cursor = LiveEvents::Feed::Cursor.now
        rows = feed.rows(whole("per_page", PAGE, 1..500), up_to: cursor)
        respond({ cursor: cursor.to_s, rows: rows })
      end

      get("/live-events/lateness", role: "viewer", scope: "read", personal: "none") do
        days = whole("days", LATENESS_DAYS, 1..3650)
        receiving = Estrel::Receiving.new(generation)
        now = [generation.calendar.end_of(as_of) - 1, micros(Time.now.utc)].min
        result = generation.cache.fetch([:receiving, as_of, days]) do
          [receiving.lateness(as_of, days), receiving.pauses(now), receiving.finding(as_of, days, now)]
        end
        respond({ as_of: as_of, days: days, classes: Estrel::Receiving::CLASSES.keys, lateness: result[0],
                  finding: result[2], sources: result[1].map { |row| describe_pause(row, now) } })
      end

      # The same as it comes: every event is a list of rows, its id the cursor to go on from. The connection is taken
      # over, so that watching takes no thread from those who ask.
      get("/live-events/live", role: "analyst", scope: "write", personal: "raw") do
        cursor = LiveEvents::Feed::Cursor.read(request.env["HTTP_LAST_EVENT_ID"] || params["after"])
        cursor ||= LiveEvents::Feed::Cursor.now
        halt 200, LIVE.dup, once(cursor) if request.head? || !request.env["rack.hijack?"]

        watched = feed
        account_id = Access::Current.account.id
        allowed = still_allowed
        take_over = ->(io) { LiveEvents::LiveFeed.shared.add(io, account_id, watched, cursor, &allowed) }
        halt 200, LIVE.merge("rack.hijack" => take_over), NOTHING_YET
      end

      private

      def feed = LiveEvents::Feed.from(params)

      # Whether the session or token exists still and its account may still watch this workspace. The feed itself does
      # not count as use, so that an idle session ends.
      def still_allowed
        asked = Rack::Request.new(request.env.slice("HTTP_COOKIE", "HTTP_AUTHORIZATION"))
        rule = @rule
        lambda do
          bearer = Access::Bearer.of(asked, note_use: false)
          !bearer.nil? && rule.refusal(bearer).nil?
        end
      end

      # For a reader whose connection cannot be taken over.
      def once(cursor)
        now = LiveEvents::Feed::Cursor.now
        LiveEvents::LiveFeed.message(now, feed.rows(PAGE, after: cursor, up_to: now))
      end

      def micros(time) = (time.to_r * 1_000_000).to_i

      def describe_pause(row, now)
        { source: row[:source], last_received_at: instant(Time.at(0, row[:last_received_at], :usec).utc),
          silent_seconds: (now - row[:last_received_at]) / 1_000_000,
          usual_pause_seconds: row[:usual_pause] && (row[:usual_pause] / 1_000_000), silent: row[:silent] }
      end
    end
  end
end
