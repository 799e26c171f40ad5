# frozen_string_literal: true

module EstrelServer
  module Answers
    # What the sentence editor shows beside an unsaved definition: its sentence, how many people are left after each
    # condition, what each branch of an alternative adds, their states and the channels they can be reached by.
    class Preview
      # How many identifiers that are not found are named.
      NAMED = 200
      private_constant :NAMED

      # @param definition [Estrel::Audience::Definition]
      # @param question [Question]
      def initialize(definition, question)
        @definition = definition
        @question = question
      end

      # @return [Hash]
      def to_h
        size, base, steps, undecided, states, reachable, listed = figures
        sentence = @question.sentence(@definition)
        { as_of: @question.as_of, received_by: @question.received_by, size: size, base: base,
          share: base.zero? ? 0.0 : size.fdiv(base), same_as: same_as, undecided: undecided, states: states,
          reachable: reachable, lists: lists(listed), definition: @definition.to_h,
          emptied_by: steps.index { |step| step[:left].zero? },
          digest: @definition.digest,
          sentence: sentence.to_s, lines: counted(sentence.lines, steps) }
      end

      private

      def counted(lines, steps)
        lines.zip(steps).map do |line, step|
          step ||= { inner: [] } # of an audience referred to, only the line itself is counted
          line.merge(step.slice(:left, :alone, :adds).compact, lines: counted(line[:lines], step[:inner]))
        end
      end

      # All at once, so that parts are asked once.
      def figures
        of = %i[steps undecided state_mix reachable listed].map { |name| [name, @definition] }
        @question.evaluator.figures([:size, @definition], [:base], *of)
      end

      def lists(listed)
        @definition.root.lists.zip(listed).map do |list, found|
          missing = list.values - found
          { by: list.by, identifiers: list.values.size, missing: missing.size, named: missing.first(NAMED) }
        end
      end

      # Kept audiences that say the same.
      def same_as
        digest = @definition.digest
        rows = Audience.kept.includes(:versions).select { |audience| audience.current.digest == digest }
        rows.map { |audience| { id: audience.id, name: audience.name } }
      end
    end
  end
end
