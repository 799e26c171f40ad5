# frozen_string_literal: true

module EstrelServer
  module Collecting
    # Reads messages as what they say: something a profile did, or one of the three reserved kinds of fact. Refuses
    # those that cannot be used, and those the source's key does not allow.
    class Reader
      RESERVED = /\Aestrel\./
      FACTS = { "estrel.attributes" => "attributes", "estrel.link" => "link", "estrel.consent" => "consent" }.freeze
      MAX_EVIDENCE = 1000

      # A message that cannot be used; the message says why.
      class Unusable < Error; end
      # A message that the key must not send.
      class Forbidden < Unusable; end

      # @param source [Directory::Source]
      # @param kinds [Array<String>] identifier kinds
      # @param latest [Time] the latest instant accepted
      # @param now [Time] of receipt
      def initialize(source, kinds:, latest:, now:)
        @source = source
        @received_at = now.getutc.strftime("%Y-%m-%d %H:%M:%S.%6N")
        @identifiers = Importing::Identifiers.new(kinds)
        @instants = Importing::Instants.new("iso8601", latest: latest)
        @events = Importing::EventReader.new(mapping: Importing::Mapping.new, instants: @instants,
                                             identifiers: @identifiers, received_at: @received_at)
      end

      # Reads every message, in place.
      #
      # @param messages [Array<Message>]
      # @return [void]
      def read(messages)
        messages.each do |message|
          next if message.outcome

          message.content = content(message)
        rescue Forbidden => e
          message.refuse(e.message, forbidden: true)
        rescue Unusable, Importing::EventReader::Unusable, Importing::Instants::Unusable,
               Importing::Identifiers::Unusable => e
          message.refuse(e.message)
        end
      end

      private

      def content(message)
        values = message.values
        check_form(values)
        kind = FACTS[values["type"]]
        return @events.read(message) unless kind

        fact(message, kind, values, values["data"] || {})
      end

      def check_form(values)
        %w[id source type subject time].each do |name|
          raise Unusable, "the #{name} is missing" if values[name].nil? || values[name] == ""
          raise Unusable, "the #{name} must be text" unless values[name].is_a?(String)
        end
        raise Unusable, "data must be an object of properties" unless [nil, Hash].include?(values["data"]&.class)

        check_allowed(values)
      end

      def check_allowed(values)
        unless values["source"] == @source.name
          raise Forbidden,
                "this key is for the source #{@source.name.inspect}, not for #{values["source"][0, 60].inspect}"
        end
        if values["type"].match?(RESERVED) && !FACTS.key?(values["type"])
          raise Unusable, "types that begin with estrel. are reserved; there are #{FACTS.keys.join(", ")}"
        end
        return if @source.allowed_types.nil? || @source.allowed_types.include?(values["type"])

        raise Forbidden, "the source #{@source.name} may not send #{values["type"][0, 60]}"
      end

      def fact(message, kind, values, data)
        key = values["id"]
        raise Unusable, "the id is longer than 255 characters" if key.length > Importing::EventReader::MAX_NAME
        raise Unusable, "the id contains control characters" if key.match?(/[[:cntrl:]]/)

        Fact.new(message, kind, @source.name, key, @identifiers.read(values["subject"]),
                 @instants.read(values["time"]), @received_at, send(:"read_#{kind}", data))
      end

      def read_attributes(data)
        raise Unusable, "data names no attribute" if data.empty?
        if data.size > Importing::EventReader::MAX_PROPERTIES
          raise Unusable, "more than #{Importing::EventReader::MAX_PROPERTIES} attributes"
        end

        data.each do |name, value|
          raise Unusable, "the name of an attribute is missing" if name.strip.empty?
          raise Unusable, "the name of an attribute is longer than 255 characters" if name.length > 255
          raise Unusable, "the name of an attribute contains control characters" if name.match?(/[[:cntrl:]]/)
          next unless Importing::Values.attribute_type(value) == "nested"

          raise Unusable, "the attribute #{name[0, 60]} is neither a text, a number, true or false, nor a list of texts"
        end
      end

      def read_link(data)
        raise Unusable, "same_as is missing; write the other identifier there" unless data["same_as"].is_a?(String)

        { "same_as" => @identifiers.read(data["same_as"]) }
      end

      def read_consent(data)
        unless Consent::CHANNELS.include?(data["channel"])
          raise Unusable, "channel must be one of #{Consent::CHANNELS.join(", ")}"
        end
        raise Unusable, "given must be true or false" unless [true, false].include?(data["given"])

        evidence = data["evidence"] || ""
        unless evidence.is_a?(String) && evidence.length <= MAX_EVIDENCE
          raise Unusable,
                "evidence must be text of at most #{MAX_EVIDENCE} characters"
        end

        { "channel" => data["channel"], "given" => data["given"], "evidence" => evidence }
      end
    end
  end
end
