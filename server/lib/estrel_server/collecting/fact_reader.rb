# frozen_string_literal: true

module EstrelServer
  module Collecting
    # Reads CloudEvents of the three reserved types: attribute changes, links between identifiers, consent changes.
    class FactReader
      RESERVED = "estrel."
      KINDS = { "estrel.attributes" => "attributes", "estrel.link" => "link", "estrel.consent" => "consent" }.freeze
      MAX_ATTRIBUTES = Importing::EventReader::MAX_PROPERTIES
      MAX_EVIDENCE = 1000

      Unusable = Importing::EventReader::Unusable

      # @param type [Object]
      # @return [Boolean]
      def self.reserved?(type) = type.is_a?(String) && type.start_with?(RESERVED)

      # @param instants [Importing::Instants]
      # @param identifiers [Importing::Identifiers]
      # @param received_at [String]
      def initialize(instants:, identifiers:, received_at:)
        @instants = instants
        @identifiers = identifiers
        @received_at = received_at
      end

      # @param row [Message]
      # @return [Fact]
      # @raise [Unusable, Importing::Instants::Unusable, Importing::Identifiers::Unusable]
      def read(row)
        values = row.values
        kind = KINDS[values["type"]] or
          raise Unusable,
                "event types that begin with \"#{RESERVED}\" are reserved for #{Estrel::English.list(KINDS.keys,
                                                                                                     "and")}"
        raise Unusable, "the time is missing" if values["time"].to_s.empty?

        data = values["data"] || {}
        raise Unusable, Importing::EventReader::NO_PROPERTIES unless data.is_a?(Hash)

        Fact.new(row, kind, Importing::Names.checked(values["source"], "source"),
                 Importing::Names.checked(values["id"], "id"),
                 @identifiers.read(values["subject"]), @instants.read(values["time"]), received_at(values),
                 send(:"read_#{kind}", data))
      end

      private

      # Files may carry the time of receipt by the system they come from; the collector takes it from nobody.
      def received_at(values) = values["receivedat"] ? @instants.read(values["receivedat"]) : @received_at

      def read_attributes(data)
        raise Unusable, "no attribute is given" if data.empty?
        raise Unusable, "more than #{MAX_ATTRIBUTES} attributes are given at once" if data.size > MAX_ATTRIBUTES

        data.each do |name, value|
          Importing::Names.checked(name, "name of an attribute")
          next unless Importing::Values.attribute_type(value) == "nested"

          raise Unusable, "the attribute #{name[0, 60]} must be a text, a number, true, false or a list of texts"
        end
        Importing::EventJson.exact(data)
      end

      def read_link(data)
        raise Unusable, "“same_as” is missing" unless data["same_as"].is_a?(String)

        { "same_as" => @identifiers.read(data["same_as"]) }
      end

      def read_consent(data)
        unless Consent::CHANNELS.include?(data["channel"])
          raise Unusable, "the channel must be #{Estrel::English.either(Consent::CHANNELS)}"
        end
        raise Unusable, "\"given\" must be true or false" unless [true, false].include?(data["given"])

        evidence = data["evidence"] || ""
        unless evidence.is_a?(String) && evidence.length <= MAX_EVIDENCE
          raise Unusable, "the evidence must be text of at most #{MAX_EVIDENCE} characters"
        end

        { "channel" => data["channel"], "given" => data["given"], "evidence" => evidence }
      end
    end
  end
end
