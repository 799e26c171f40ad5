# frozen_string_literal: true

module Bench
  # Puts questions to analyses as a web process does, part by part.
  module Analyses
    module_function

    # @param generation [Estrel::Ledger::Generation]
    # @param name [String]
    # @param question [Hash]
    # @param as_of [Date]
    # @return [Estrel::Analyses::Answer]
    def answer(generation, name, question = {}, as_of: Questions::AS_OF)
      workspace = Estrel::Analyses::Workspace.new(ledger: generation, as_of: as_of, today: as_of + 1,
                                                  rules: Questions::RULE_SET)
      Estrel::Analyses.named(name).ask(JSON.parse(JSON.generate(question)), workspace).over
    end
  end
end
