# frozen_string_literal: true

module EstrelServer
  # Limits the bodies of requests before Puma reads them. Puma writes a whole body to disk before it calls the
  # application, so a limit in the application, or its check of a key, comes too late for the disk. The policy of each
  # server sees the head of a request and returns how long the body may be, or why it is not read at all.
  #
  # A refused request reaches the application without its body, with the {Refusal} in its environment, where {Answering}
  # turns it into a response. Chunked bodies have no length in their head: Puma counts them as they arrive, by the same
  # limit.
  module BodyLimits
    REFUSAL = "estrel.body_refusal"
    # Why a body is not read.
    Refusal = Struct.new(:status, :detail)

    class << self
      # @return [#limit, nil] of this process; nil limits nothing
      attr_accessor :policy

      # Has Puma ask a policy before each body.
      #
      # @param policy [#limit] takes the environment of a request's head, with REQUEST_METHOD and REQUEST_PATH; returns
      #   bytes or a {Refusal}
      # @return [void]
      def install(policy)
        self.policy = policy
        Puma::Client.prepend(BeforeBody)
      end

      # @param env [Hash]
      # @return [Integer, Refusal]
      def judge(env)
        limit = policy.limit(env)
        return limit if limit.is_a?(Refusal) || env["CONTENT_LENGTH"].to_i <= limit

        Refusal.new(413, "the request is longer than #{limit} bytes")
      end

      # Runs the block in the workspace that a request is for. Policies may run in the thread in which Puma waits for
      # all connections; that one keeps no connection to the database.
      #
      # @param env [Hash] of a request's head
      # @yieldreturn [Object]
      # @return [Object, nil] the block's result; nil where there is no such workspace
      def in_workspace(env, &)
        place = Workspaces::Chooser.place(env["REQUEST_PATH"], env["HTTP_AUTHORIZATION"])
        place && Workspaces.within(place, &)
      ensure
        [Record, InstallationRecord].each { |model| model.connection_pool.release_connection }
      end
    end

    # In front of Puma's own method, which is called once the head of a request has been read.
    module BeforeBody
      def setup_body
        return super unless BodyLimits.policy && (@env["CONTENT_LENGTH"] || @env["HTTP_TRANSFER_ENCODING"])

        verdict = BodyLimits.judge(@env)
        if verdict.is_a?(Refusal)
          refuse(verdict)
          return true
        end

        @http_content_length_limit = verdict
        super
      end

      private

      # What is left of the connection belongs to the body, so it is closed after the response.
      def refuse(refusal)
        @read_header = false
        @buffer = nil
        @body = Puma::Client::EmptyBody
        @env[REFUSAL] = refusal
        @env["HTTP_CONNECTION"] = "close"
        @env["CONTENT_LENGTH"] = "0"
        set_ready
      end
    end

    # Middleware that answers requests whose bodies were refused.
    class Answering
      # @param app [#call]
      # @param headers [Hash] of each such response
      def initialize(app, headers = {})
        @app = app
        @headers = headers
      end

      # @param env [Hash] the Rack environment
      # @return [Array] status, headers, body
      def call(env)
        refusal = env[REFUSAL] or return @app.call(env)

        API::Problems.response(refusal.status, refusal.detail, **@headers, "connection" => "close")
      end
    end
  end
end
