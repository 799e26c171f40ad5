# frozen_string_literal: true

module EstrelServer
  module Collecting
    # Splits messages, in the order of receipt, into rounds whose links can wait until everything else of the round has
    # been stored, since it is about other people than the links before it.
    #
    # What a link may bring together counts as one circle of identifiers, whatever becomes of the link: circles are
    # never too small, so nothing is stored out of order that the order matters to.
    class Rounds
      # What is stored first, and the links after it.
      Round = Struct.new(:others, :links)

      # @param identity [Importing::Identity]
      # @param messages [Array<Message>] with content
      def initialize(identity, messages)
        @messages = messages
        links = messages.map(&:content).select { |content| Rounds.link?(content) }
        return if links.empty?

        @known = identity.lookup(messages.flat_map { |message| Rounds.identifiers(message.content) }).keys.to_set
        @circles = identity.held_with(links.flat_map { |link| Rounds.identifiers(link) })
      end

      # @param content [Importing::EventReader::Event, Fact]
      # @return [Boolean]
      def self.link?(content) = content.is_a?(Fact) && content.kind == "link"

      # @param content [Importing::EventReader::Event, Fact]
      # @return [Array<String>] whom it is about; of a link both
      def self.identifiers(content) = link?(content) ? [content.subject, content.data["same_as"]] : [content.subject]

      # @return [Array<Round>]
      def to_a
        rounds = [begin_round]
        @messages.each do |message|
          content = message.content
          rounds << begin_round unless fits?(content)
          note(content)
          (Rounds.link?(content) ? rounds.last.links : rounds.last.others) << message
        end
        rounds
      end

      private

      def begin_round
        @kinds = {}
        @touched = Set.new.compare_by_identity # circles that a link of this round is about
        @makes = false # whether such a link may make somebody new
        Round.new([], [])
      end

      # An id that stands for two things is settled in order: the first is the one that counts.
      def fits?(content)
        return false if @kinds.fetch([content.source, content.key], kind(content)) != kind(content)
        return true if Rounds.link?(content) || @touched.empty?

        # People are numbered in the order of receipt: of two, the older one is kept.
        !@touched.include?(@circles[content.subject]) && (@known.include?(content.subject) || !@makes)
      end

      def note(content)
        @kinds[[content.source, content.key]] = kind(content)
        return if @known.nil?

        join(content) if Rounds.link?(content)
        @known.merge(Rounds.identifiers(content))
      end

      def join(link)
        one, other = Rounds.identifiers(link)
        @makes ||= makes?(one, other)
        circle, joined = [one, other].map { |identifier| @circles[identifier] ||= [identifier] }
                                     .sort_by { |identifiers| -identifiers.size }
        unless circle.equal?(joined)
          circle.concat(joined)
          joined.each { |identifier| @circles[identifier] = circle }
          @touched.delete(joined)
        end
        @touched << circle
      end

      # Two who are new, or a new customer with somebody else's device.
      def makes?(one, other)
        fresh = [one, other].reject { |identifier| @known.include?(identifier) }
        return fresh.any? if fresh.size != 1

        held = @circles[([one, other] - fresh).first] || []
        fresh.first.start_with?("customer:") && held.any? { |identifier| identifier.start_with?("customer:") }
      end

      def kind(content) = content.is_a?(Fact) ? content.kind : "event"
    end
  end
end
