# frozen_string_literal: true

require "sinatra/base"

module EstrelServer
  module Collecting
    # The collector's HTTP interface: POST /events with a sending key. Its own process, so that no question an analyst
    # asks ever makes a sender wait.
    class Application < Sinatra::Base
      MAX_BODY = 4 << 20
      MAX_EVENTS = 1_000
      UNKNOWN_KEY = "this key is unknown, expired or revoked"
      CORS = { "access-control-allow-origin" => "*", "access-control-max-age" => "86400",
               "access-control-allow-methods" => "POST", "access-control-expose-headers" => "retry-after",
               "access-control-allow-headers" => "authorization, content-type, content-encoding, ce-specversion, " \
                                                 "ce-id, ce-source, ce-type, ce-subject, ce-time" }.freeze
      # What a sender could do about a request that was refused as a whole.
      class Refused < StandardError
        # @return [Integer] HTTP status
        attr_reader :status
        # @return [Hash]
        attr_reader :headers

        def initialize(status, message, headers = {})
          @status = status
          @headers = headers
          super(message)
        end
      end

      configure do
        set :show_exceptions, false
        set :raise_errors, false
        set :dump_errors, false
        set :protection, false # senders come from anywhere and show a key; there is no session to protect
        set :host_authorization, {}
        set :static, false
      end

      before { headers(CORS) }

      error(Refused) { |e| headers(e.headers) && problem(e.status, e.message) }
      error(Envelope::Unreadable) { |e| problem(e.status, e.message) }
      error(Batcher::Unavailable) { |e| headers("retry-after" => "1") && problem(503, e.message) }
      error(ActiveRecord::ActiveRecordError, Trilogy::Error) do
        headers("retry-after" => "1") && problem(503, "storage is not responding; send the request again")
      end
      error do |e|
        Log.error("events could not be taken", e)
        problem(500, API::Problems.unforeseen)
      end
      not_found { problem(404, "events go to POST /events") if response.body.empty? }

      options("/events") { halt 204 }
      get("/health") { respond(200, { ready: true }) }

      post("/events") do
        source = authenticate
        body = RequestBody.new(request.env, MAX_BODY).read
        envelope = Envelope.new(request.env, body)
        messages = envelope.messages
        refuse(413, "#{messages.size} events; at most #{MAX_EVENTS} are taken at once") if messages.size > MAX_EVENTS
        wait = rate_limit.wait(source, messages.size)
        refuse(429, "rate limit of source #{source.name} reached", "retry-after" => wait.to_s) if wait
        read(source, messages)
        batcher.store(source, messages)
        messages.map(&:outcome).tally.each do |outcome, events|
          Figures.count(:events_total, { source: source.name, outcome: outcome }, by: events)
        end
        Workspace.end_demo if directory.contents.demo && !source.demo
        respond(status_of(envelope, messages), summary(messages))
      end

      private

      def directory = Directory.shared

      def batcher = Workspaces.current.keep(:batcher) { Batcher.new }

      def rate_limit = Workspaces.current.keep(:rate_limit) { RateLimit.new }

      def authenticate
        directory.source_of_request(request.env) || refuse(401, UNKNOWN_KEY, "www-authenticate" => "Bearer")
      end

      def read(source, messages)
        contents = directory.contents
        now = Time.now.utc
        Reader.new(source, kinds: contents.kinds, latest: now + contents.tolerance, earliest: contents.kept_from,
                           now: now).read(messages)
      end

      # A batch is answered event by event. The single forms say it with the status as well.
      def status_of(envelope, messages)
        return 403 if messages.any? && messages.all?(&:forbidden?)
        return 200 if envelope.batch? || messages.first.outcome != "refused"

        422
      end

      def summary(messages)
        counts = messages.map(&:outcome).tally
        { stored: counts.fetch("stored", 0), known: counts.fetch("known", 0), refused: counts.fetch("refused", 0),
          events: messages.map(&:to_h) }
      end

      def refuse(status, message, headers = {}) = raise(Refused.new(status, message, headers))

      def respond(status, object)
        content_type :json
        halt status, JSON.generate(object)
      end

      def problem(status, detail)
        content_type "application/problem+json"
        halt status, JSON.generate({ type: "about:blank", title: Rack::Utils::HTTP_STATUS_CODES.fetch(status),
                                     status: status, detail: detail, errors: [] })
      end
    end
  end
end
