# frozen_string_literal: true

module EstrelServer
  # Everything the sentence editor shows beside an unsaved definition: its sentence, how many people are left after
  # each clause, and a few of them.
  class Preview
    SAMPLE = 20

    # @param definition [Estrel::Audience::Definition]
    # @param generation [Estrel::Ledger::Generation]
    # @param as_of [Date]
    # @param policy [Estrel::Lifecycle::Policy, nil]
    def initialize(definition, generation, as_of:, policy:)
      @definition = definition
      @generation = generation
      @as_of = as_of
      @policy = policy
    end

    # @return [Hash]
    def to_h
      evaluator = Asking.evaluator(@generation, as_of: @as_of, policy: @policy)
      members = evaluator.members(@definition)
      base = evaluator.base
      sentence = Estrel::Audience::Sentence.new(@definition, @generation.catalogue)
      { as_of: @as_of, size: members.len, base: base, share: base.zero? ? 0.0 : members.len.fdiv(base),
        same_as: same_as, undecided: evaluator.undecided(@definition), states: evaluator.state_mix(@definition),
        definition: @definition.to_h, digest: @definition.digest, sentence: sentence.to_s,
        lines: sentence.lines.zip(evaluator.steps(@definition)).map { |line, step| line.merge(step) },
        sample: sample(members) }
    end

    private

    # Kept audiences that say the same.
    def same_as
      digest = @definition.digest
      rows = Audience.kept.includes(:versions).select { |audience| audience.current.digest == digest }
      rows.map { |audience| { id: audience.id, name: audience.name } }
    end

    # The same few people every time the same question is asked, spread over the whole audience.
    def sample(members)
      step = [members.len / SAMPLE, 1].max
      ids = (0...members.len).step(step).first(SAMPLE).map { |index| members[index] }
      People.new(@generation, as_of: @as_of, policy: @policy).describe_ids(ids)
    end
  end
end
