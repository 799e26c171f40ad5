# frozen_string_literal: true

module EstrelServer
  module Answers
    # An answer as a stream of server-sent events: `progress` as often as there is any, then `answer`, or `problem`
    # where there is none. The body of a Rack response; the answer is computed while it is read, and no further once
    # nobody reads it.
    class EventStream
      HEADERS = { "content-type" => "text/event-stream", "cache-control" => "no-store",
                  "x-accel-buffering" => "no" }.freeze

      # @param name [String]
      # @param data [String]
      # @return [String] one event
      def self.event(name, data) = "event: #{name}\ndata: #{data}\n\n"

      # @param answer [AnalysisAnswer]
      # @param problem [#call] gives the problem details for an error, or nil where it is none of ours
      def initialize(answer, problem)
        @answer = answer
        @problem = problem
        @bearer = Access::Current.bearer
        @context = Log.context
      end

      # @yieldparam event [String]
      # @return [void]
      def each(&block)
        Log.with(**@context) { Access::Current.set(bearer: @bearer) { tell(block) } }
      rescue StandardError => e
        told = @problem.call(e) or raise
        yield event("problem", JSON.generate(told))
      end

      private

      def tell(reader)
        last = nil
        json = @answer.json do |progress|
          reader.call(event("progress", JSON.generate(progress))) unless progress == last
          last = progress
        end
        reader.call(event("answer", json))
      end

      def event(name, data) = self.class.event(name, data)
    end
  end
end
