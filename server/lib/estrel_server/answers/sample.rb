# frozen_string_literal: true

module EstrelServer
  module Answers
    # A few members of an audience, spread over the whole of it, with the facts that make each of them one: the same
    # people every time the same question is asked.
    class Sample
      SIZE = 20

      # @param definition [Estrel::Audience::Definition]
      # @param question [Question]
      # @param columns [Array<Estrel::Exports::Column>] what else is shown of everybody
      def initialize(definition, question, columns: [])
        @definition = definition
        @question = question
        @people = People.new(question, columns: columns)
      end

      # @return [Array<Hash>] people as {People} describes them, with `facts`: what was found for each top-level
      #   condition
      def rows
        @people.describe_ids(ids).map { |row| row.merge(facts: facts(row[:id])) }
      end

      private

      def ids
        members = @question.evaluator.members(@definition)
        step = [members.len / SIZE, 1].max
        (0...members.len).step(step).first(SIZE).map { |index| members[index] }
      end

      def facts(id) = @question.why(id).verdicts(@definition).filter_map { |verdict| fact(verdict) }

      # Of alternatives, one that holds.
      def fact(verdict)
        return verdict.found if verdict.found || verdict.conditions.empty?

        inner = verdict.conditions.find(&:holds)
        inner && fact(inner)
      end
    end
  end
end
