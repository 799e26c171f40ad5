# frozen_string_literal: true

module Bench
  # Puts questions to analyses as a web process does, part by part.
  module Analyses
    module_function

    # @param generation [Estrel::Ledger::Generation]
    # @param name [String]
    # @param question [Hash]
    # @param as_of [Date]
    # @param stored [Estrel::Analyses::Stored]
    # @return [Estrel::Analyses::Answer]
    def answer(generation, name, question = {}, as_of: Questions::AS_OF, **stored)
      ask(name, question, workspace(generation, as_of, **stored)).over
    end

    # @return [Estrel::Analyses::Workspace]
    def workspace(generation, as_of, **stored)
      Estrel::Analyses::Workspace.new(ledger: generation, as_of: as_of, today: as_of + 1, rules: Questions::RULE_SET,
                                      **stored)
    end

    # @return [Estrel::Analyses::Analysis]
    def ask(name, question, workspace)
      Estrel::Analyses.named(name).ask(JSON.parse(JSON.generate(question)), workspace)
    end
  end
end
