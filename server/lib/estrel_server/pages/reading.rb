# frozen_string_literal: true

module EstrelServer
  module Pages
    # Asks for whoever is signed in what the blocks of a page show, as of one date.
    class Reading
      # What a block shows: a `title`, the `as_of` date, what there is to say (`finding`, `caveats`) and the `table`
      # that is drawn, with the key of its `figure`; of an audience how many `people` it has, its `sentence` and what
      # `share` of everybody it is; or why there is nothing to show (`fault`).
      Shown = Struct.new(:block, :title, :as_of, :finding, :caveats, :table, :figure, :people, :sentence, :share,
                         :fault, keyword_init: true)

      # @param page [Page]
      # @param as_of [Date]
      # @param ledger [Estrel::Ledger]
      # @param cancelled [#call] tells whether nobody waits for it any more
      # @param limited [Boolean] see {Answers::Question}
      def initialize(page, as_of, ledger: EstrelServer.ledger, cancelled: -> { false }, limited: true)
        @page = page
        @as_of = as_of
        @whole = ledger.current
        @generation = Access::Disclosure.ledger(@whole)
        @limits = { cancelled: cancelled, limited: limited }
      end

      # @return [Array<Shown>] in the order of the blocks
      # @raise [Estrel::Budget::Exceeded]
      def shown = @page.parts.map { |block| show(block) }

      private

      def show(block)
        return Shown.new(block: block) if %w[heading text].include?(block.kind)

        row = block.shown or return Shown.new(block: block, fault: "This content has been deleted.")
        row.is_a?(Audience) ? audience(block, row) : analysis(block, row)
      rescue Estrel::Budget::Exceeded
        raise
      rescue Estrel::Error, Error => e
        Shown.new(block: block, title: row.name, fault: Estrel::English.sentence(e.message))
      end

      def analysis(block, row)
        version = row.current
        asks = version.asked(@as_of) or raise Error, "open this analysis and save it again to show it"
        answer = answer(version.analysis, asks)
        drawn = block.drawn || answer["drawn"]
        table = drawn && answer["tables"].find { |one| one["key"] == drawn["table"] }
        Shown.new(block: block, title: row.name, as_of: Date.iso8601(answer["as_of"]), finding: answer["finding"],
                  caveats: answer["caveats"], table: table, figure: drawn && drawn["figure"])
      end

      def answer(address, asks)
        record = asks["rule_set"] ? RuleSet.kept.find_by(id: asks["rule_set"]) : RuleSet.current
        raise Error, "the lifecycle rules of this analysis have been deleted" if record.nil?

        received = asks["received_by"] && Date.iso8601(asks["received_by"])
        question = question(Date.iso8601(asks["as_of"]), record, received_by: received)
        analysis = Estrel::Analyses.named(address).ask(asks, question.workspace(record))
        JSON.parse(Answers::AnalysisAnswer.new(analysis, @whole).json)
      end

      def audience(block, row)
        question = question(@as_of, RuleSet.current)
        definition = Answers::Asking.definition(row.current.definition, @generation.catalogue)
        people, base = question.evaluator.figures([:size, definition], [:base])
        share = people.fdiv(base) if base.positive?
        Shown.new(block: block, title: row.name, as_of: @as_of, people: people, share: share,
                  sentence: Access::Disclosure.sentence(row.current))
      end

      def question(as_of, record, **more)
        rules = Answers::Asking.rule_set(record.rules_json, @whole.catalogue, of: record)
        Answers::Question.new(@generation, as_of: as_of, rule_set: rules, **@limits, **more)
      end
    end
  end
end
