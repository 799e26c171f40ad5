# frozen_string_literal: true

module EstrelServer
  module Collecting
    # Reads messages as what they say: something a profile did, or one of the three reserved kinds of fact. Refuses
    # those that cannot be used, and those the source's key does not allow.
    class Reader
      Unusable = FactReader::Unusable
      # A message that the key must not send.
      class Forbidden < Unusable; end

      # @param source [Directory::Source]
      # @param kinds [Array<String>] identifier kinds
      # @param latest [Time] the latest instant accepted
      # @param now [Time] of receipt
      # @param earliest [Time, nil] from when on events are kept
      def initialize(source, kinds:, latest:, now:, earliest: nil)
        @source = source
        common = { identifiers: Importing::Identifiers.new(kinds),
                   received_at: now.getutc.strftime("%Y-%m-%d %H:%M:%S.%6N") }
        kept = Importing::Instants.new("iso8601", latest: latest, earliest: earliest)
        @events = Importing::EventReader.new(mapping: Importing::Mapping.new, instants: kept, **common)
        @facts = FactReader.new(instants: Importing::Instants.new("iso8601", latest: latest), **common)
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
        rescue *Importing::BatchReader::UNUSABLE => e
          message.refuse(e.message)
        end
      end

      private

      def content(message)
        check_form(message.values)
        FactReader.reserved?(message.values["type"]) ? @facts.read(message) : @events.read(message)
      end

      def check_form(values)
        %w[id source type subject time].each do |name|
          raise Unusable, "the #{name} is missing" if values[name].nil? || values[name] == ""
          raise Unusable, "the #{name} must be text" unless values[name].is_a?(String)
        end
        raise Unusable, Importing::EventReader::NO_PROPERTIES unless [nil, Hash].include?(values["data"]&.class)

        check_allowed(values)
      end

      def check_allowed(values)
        unless values["source"] == @source.name
          raise Forbidden,
                "this key belongs to the source #{@source.name.inspect}, not to #{values["source"][0, 60].inspect}"
        end
        return if @source.allowed_types.nil? || @source.allowed_types.include?(values["type"])

        raise Forbidden, "the source #{@source.name.inspect} may not send #{values["type"][0, 60].inspect} events"
      end
    end
  end
end
