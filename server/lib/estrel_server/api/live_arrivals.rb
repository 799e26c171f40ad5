# frozen_string_literal: true

module EstrelServer
  module API
    # Arrivals as server-sent events: every event is a list of rows, its id the cursor to go on from. Takes the
    # connection over, so it is a plain Rack application beside the endpoints.
    module LiveArrivals
      PATH = "/api/arrivals/live"
      HEADERS = { "content-type" => "text/event-stream", "cache-control" => "no-store",
                  "x-accel-buffering" => "no" }.freeze
      # What is sent to a reader whose connection cannot be taken over.
      ROWS = 100

      module_function

      # @param env [Hash] the Rack environment
      # @return [Array] status, headers, body
      def call(env)
        query = Rack::Utils.parse_query(env["QUERY_STRING"])
        feed = ArrivalsFeed.from(query)
        cursor = ArrivalsFeed::Cursor.read(env["HTTP_LAST_EVENT_ID"] || query["after"]) || ArrivalsFeed::Cursor.now
        return [200, HEADERS.dup, [once(feed, cursor)]] unless env["rack.hijack?"]

        [200, HEADERS.merge("rack.hijack" => ->(io) { LiveFeed.shared.add(io, feed, cursor) }), []]
      end

      def once(feed, cursor)
        now = ArrivalsFeed::Cursor.now
        LiveFeed.message(now, feed.rows(ROWS, after: cursor, up_to: now))
      end
      private_class_method :once
    end
  end
end
