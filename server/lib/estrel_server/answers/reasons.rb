# frozen_string_literal: true

module EstrelServer
  module Answers
    # Why somebody is in an audience or not, as plain JSON.
    class Reasons
      # @param definition [Estrel::Audience::Definition]
      # @param question [Question]
      # @param profile_id [Integer]
      def initialize(definition, question, profile_id)
        @definition = definition
        @question = question
        @profile_id = profile_id
      end

      # @return [Hash]
      def to_h
        why = @question.why(@profile_id)
        verdicts = why.verdicts(@definition)
        { person: @question.people.describe_ids([@profile_id]).first, as_of: @question.as_of,
          received_by: @question.received_by, seen: why.seen?, member: why.member?(@definition),
          nearest: Estrel::Audience::Why.nearest(verdicts)&.place, verdicts: verdicts.map { |verdict| described(verdict) } }
      end

      private

      def described(verdict)
        { place: verdict.place, said: sentence.words(verdict.condition), holds: verdict.holds,
          nearness: verdict.nearness, found: verdict.found, asked: verdict.asked, more: verdict.more,
          facts: verdict.facts.map { |fact| described_fact(fact) },
          conditions: verdict.conditions.map { |inner| described(inner) } }
      end

      def described_fact(fact)
        { what: fact[:what], at: Time.at(0, fact[:at], :usec).utc.iso8601(6), whole_day: fact[:day] == true }
      end

      def sentence = @sentence ||= @question.sentence(@definition)
    end
  end
end
