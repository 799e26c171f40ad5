# frozen_string_literal: true

module EstrelServer
  module Collecting
    # One CloudEvent on its way into the store: its place in the request, as it was, and what it was read as.
    #
    # `content` is an {Importing::EventReader::Event} or a {Fact}; nil where the message is refused. `outcome` is
    # "stored", "known" or "refused", with the `reason`.
    class Message
      # @return [Integer] place in the request, from 0
      attr_reader :number
      # @return [Hash, nil] CloudEvents in their JSON form
      attr_reader :values
      # @return [Importing::EventReader::Event, Fact, nil]
      attr_accessor :content
      # @return [String, nil]
      attr_reader :outcome
      # @return [String, nil]
      attr_reader :reason

      # @param number [Integer]
      # @param original [String, Proc] JSON text, or what makes it when it is wanted
      # @param values [Hash, nil]
      def initialize(number, original, values)
        @number = number
        @source_text = original
        @values = values
      end

      # @return [String] JSON text
      def original
        @source_text = @source_text.call if @source_text.is_a?(Proc)
        @source_text
      end

      # @return [nil] as rows of files have it
      def fault = nil

      # @param reason [String] in words; kept as a whole sentence
      # @param forbidden [Boolean] whether the key, not the message, is what is wrong
      # @param conflict [Boolean] whether its id is known with other contents
      # @return [void]
      def refuse(reason, forbidden: false, conflict: false)
        @outcome = "refused"
        @reason = Estrel::English.sentence(reason)
        @forbidden = forbidden
        @conflict = conflict
        @content = nil
      end

      # @param outcome [String] "stored" or "known"
      # @return [void]
      def settle(outcome) = @outcome = outcome

      # @return [Boolean]
      def forbidden? = @forbidden || false

      # @return [Boolean]
      def conflict? = @conflict || false

      # @return [String, nil] what the sender calls it
      def id = values.is_a?(Hash) ? values["id"]&.to_s&.slice(0, 255) : nil

      # @return [Hash] plain JSON
      def to_h = { id: id, outcome: outcome, reason: reason }.compact
    end
  end
end
