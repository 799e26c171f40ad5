# frozen_string_literal: true

require "cloud_events"

module EstrelServer
  module Collecting
    # Takes a request apart into messages: CloudEvents 1.0 over HTTP in binary, structured and batch form.
    #
    # The CloudEvents library reads and judges everything but the most ordinary form of a JSON event, which it would
    # accept as it stands; that one is let through unread because judging it costs more than storing it.
    class Envelope
      BINDING = CloudEvents::HttpBinding.default
      JSON_FORMAT = CloudEvents::JsonFormat.new
      ORDINARY_KEYS = %w[specversion id source type subject time data datacontenttype].freeze

      # A request that holds no messages; `status` is the HTTP status.
      class Unreadable < Error
        # @return [Integer]
        attr_reader :status

        def initialize(status, message)
          @status = status
          super(message)
        end
      end

      # @param env [Hash] the Rack environment
      # @param body [String] plain, not compressed any more
      def initialize(env, body)
        @env = env
        @body = body
        @type = CloudEvents::ContentType.new(env["CONTENT_TYPE"].to_s)
      end

      # @return [Boolean] whether the request holds a list of events, however many
      def batch? = json_form? && @type.subtype_base == "cloudevents-batch"

      # @return [Array<Message>]
      # @raise [Unreadable]
      def messages
        return [binary] if @env.key?("HTTP_CE_SPECVERSION")
        raise Unreadable.new(415, UNKNOWN_FORM) unless json_form?

        parsed = parse
        return [message(0, parsed)] unless batch?
        raise Unreadable.new(400, "a batch is a JSON array of events") unless parsed.is_a?(Array)

        parsed.each_with_index.map { |values, index| message(index, values) }
      end

      UNKNOWN_FORM = "send application/cloudevents+json, application/cloudevents-batch+json, or the ce- headers of " \
                     "the binary form"
      private_constant :UNKNOWN_FORM

      private

      def json_form?
        @type.media_type == "application" && @type.subtype_format == "json" &&
          %w[cloudevents cloudevents-batch].include?(@type.subtype_base)
      end

      def parse
        raise Unreadable.new(400, "the request is not valid UTF-8") unless @body.force_encoding("UTF-8").valid_encoding?

        Importing::EventJson.parse(@body)
      rescue JSON::NestingError
        raise Unreadable.new(400, "the request is nested too deeply")
      rescue JSON::ParserError => e
        raise Unreadable.new(400, "the request is not valid JSON: #{e.message.scrub.lines.first.to_s.strip[0, 200]}")
      end

      def message(number, values)
        return refused(number, values, "the event is not a JSON object") unless values.is_a?(Hash)

        values = judged(values) unless ordinary?(values)
        Message.new(number, -> { Importing::SQL.json(values) }, values)
      rescue CloudEvents::CloudEventsError, ArgumentError => e
        refused(number, values, "this is not a CloudEvent: #{e.message.scrub[0, 200]}")
      end

      def refused(number, values, reason)
        text = -> { Importing::SQL.json(values) }
        Message.new(number, text, values.is_a?(Hash) ? values : nil).tap { |message| message.refuse(reason) }
      end

      def ordinary?(values)
        values["specversion"] == "1.0" && (values.keys - ORDINARY_KEYS).empty? &&
          [nil, "application/json"].include?(values["datacontenttype"])
      end

      def judged(values)
        event = JSON_FORMAT.decode_hash_structure(values, charset: "utf-8")
        check_version(event)

        values.slice(*ORDINARY_KEYS).merge("data" => event.data? ? event.data : values["data_base64"])
      end

      def check_version(event)
        return if event.spec_version == "1.0"

        raise CloudEvents::SpecVersionError, "only version 1.0 can be read, not #{event.spec_version}"
      end

      def binary
        event = BINDING.decode_event(@env.merge("rack.input" => StringIO.new(@body)))
        check_version(event)

        values = event.to_h.slice(*ORDINARY_KEYS).merge("data" => event.data)
        unless values.values.grep(String).all?(&:valid_encoding?)
          raise Unreadable.new(400, "the headers are not valid UTF-8")
        end

        Message.new(0, -> { Importing::SQL.json(values) }, values)
      rescue CloudEvents::CloudEventsError, ArgumentError => e
        raise Unreadable.new(400, "this is not a CloudEvent: #{e.message.scrub[0, 200]}")
      end
    end
  end
end
