# frozen_string_literal: true

module EstrelServer
  module Answers
    # Who entered and who left an audience between two dates, with the condition that turned, as plain JSON.
    class Movement
      LISTED = 50

      # @param definition [Estrel::Audience::Definition]
      # @param question [Question] as of the later date
      # @param from [Date] the earlier one
      def initialize(definition, question, from)
        @definition = definition
        @question = question
        @from = from
      end

      # @return [Hash]
      def to_h
        moved, people = @question.evaluator.figures([:movement, @definition, @from], [:moved, @definition, @from])
        { from: @from, to: @question.as_of, before: moved[:before], after: moved[:after],
          stayed: moved[:after] - moved[:entered][:count],
          entered: described(moved[:entered], people[:entered]), left: described(moved[:left], people[:left]) }
      end

      private

      def described(turned, people)
        { count: turned[:count], newly_seen: turned[:never_active], conditions: conditions(turned[:conditions]),
          people: @question.people.describe_ids(people.head(LISTED).to_a) }
      end

      def conditions(counts)
        sentence = @question.sentence(@definition)
        @definition.conditions.each_with_index.map do |condition, index|
          { place: @definition.place(index), said: sentence.words(condition), count: counts[index] }
        end
      end
    end
  end
end
