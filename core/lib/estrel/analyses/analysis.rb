# frozen_string_literal: true

require "digest"

module Estrel
  module Analyses
    # One question, and how it is answered: {#partial} is asked of one part of the ledger after another, what it finds
    # is put together with {#merge}, and {#answer} says what comes of it. Parts may be asked in any order, and their
    # number does not change the answer.
    #
    # Some questions have to go over all parts more than once, such as for the most frequent values before these can be
    # told apart: {#more?} says so.
    class Analysis
      class << self
        # @return [String] its name in addresses: "before-after"
        def address
          name.split("::").last.gsub(/(?<=[a-z])(?=[A-Z])/, "-").downcase # linear: our own class names
        end

        # @return [Schema] of its question and its answer
        def schema = @schema ||= Schema.new(self)

        # @param json [Hash] the question, as its schema describes it
        # @param workspace [Workspace]
        # @return [Analysis]
        # @raise [Invalid]
        def ask(json, workspace) = new(schema.question(json), workspace)

        # @return [Boolean] whether it needs lifecycle rules
        def states? = false
      end

      # Raised where states are asked about and nothing counts as activity.
      class NoRules < Error; end

      # @return [Hash{String => Object}] frozen
      attr_reader :question
      # @return [Workspace]
      attr_reader :workspace

      # @param question [Hash{String => Object}] checked, frozen
      # @param workspace [Workspace]
      # @raise [NoRules]
      def initialize(question, workspace)
        @question = question
        @workspace = workspace
        return unless self.class.states? && workspace.rules.nil?

        raise NoRules, "no event type counts as activity yet; choose at least one under Lifecycle → Rules"
      end

      # Names the question and all it rests on completely, so that its answer can be kept. Whatever the question refers
      # to is looked up by this, so that a question that cannot be asked is refused before anything is computed.
      #
      # @return [Array] plain data
      # @raise [Invalid]
      def key = [self.class.address, question, workspace.key, basis]

      # @param asker [#ask] puts the question to the parts of the ledger, see {InTurn#ask}
      # @yield see {#collect}
      # @return [Answer]
      # @raise [Budget::Exceeded]
      def over(asker = InTurn, &) = answer(collect(asker, &)).about(self)

      # Goes over all parts as often as it takes.
      #
      # @param asker [#ask]
      # @yield [done, all, what] how many parts have been asked, how many there are, and what is being done
      # @return [Array<Object>] what each round has found
      # @raise [Budget::Exceeded]
      def collect(asker = InTurn)
        found = []
        while more?(found)
          round = renewed(asker, found) { |done, all| yield(done, all, doing(found)) if block_given? }
          found << settled(round, found)
        end
        found
      end

      # @param found [Array<Object>] what the rounds so far have found
      # @return [Boolean] whether all parts are to be asked once more
      def more?(found) = found.empty?

      # @param found [Array<Object>]
      # @return [String] what the next round does, as progress tells it
      def doing(_found) = "Counting"

      # What a part of the ledger says, from the {Ledger::Shelf} where it has said so before.
      #
      # @param part [Audience::Evaluator]
      # @param found [Array<Object>] see {#carried}
      # @return [Object] see {#partial}
      def asked_of(part, found)
        ledger = workspace.ledger
        shelf = ledger.shelf or return partial(part, found)
        round = Digest::SHA256.hexdigest(Transit.dump(found))
        shelf.fetch([ledger.reference, part.ledger.range, *asked, round]) { partial(part, found) }
      end

      # @return [Array] what a part is asked, as plain data; whatever the question refers to has been looked up by then
      def asked = [self.class.address, question, workspace.as_of, workspace.today, workspace.rules&.key, basis]

      # @param part [Audience::Evaluator] of a part of the ledger
      # @param found [Array<Object>] see {#carried}
      # @return [Object]
      def partial(part, found) = raise(NotImplementedError)

      # @return [Object] what two parts have found together
      def merge(one, other) = Sum.of(one, other)

      # @param round [Object] what all parts have found together
      # @param found [Array<Object>] of the rounds before
      # @return [Object] what is kept of it
      def settled(round, _found) = round

      # @param found [Array<Object>] of the rounds before
      # @return [Array<Object>] what every part has to know of each of these in the next round, and no more: where it is
      #   the same, a part need not be asked again
      def carried(found) = found

      # @param found [Array<Object>] one for each round
      # @return [Answer]
      def answer(found) = raise(NotImplementedError)

      # @return [Array<String>] where the range of the question is not the one that is answered
      def range_caveats
        from, to = %w[from to].map { |name| question.key?(name) ? day(name) : nil }
        oldest = workspace.ledger.oldest_day
        caveats = []
        if from && oldest && from < oldest
          caveats << "The data begins on #{English.date(oldest)}, after the start of the range."
        end
        caveats << "The range ends on the as-of date, #{English.date(workspace.as_of)}." if to && to > workspace.as_of
        caveats
      end

      private

      # It is looked up where what is stored can be, and travels with the question.
      def basis = @basis ||= rests_on

      def renewed(asker, found, &)
        basis # what it rests on is that of the whole
        carried = carried(found)
        Renewal.ask(workspace, ->(few) { partial(few, carried) }) do |asked|
          analysis = asked.equal?(workspace) ? self : put_to(asked)
          asker.ask(analysis, carried, &).reduce { |one, other| merge(one, other) }
        end
      end

      # The same question to a base.
      def put_to(workspace) = dup.tap { |copy| copy.instance_variable_set(:@workspace, workspace) }

      # @return [Array] what the question refers to, as plain data
      def rests_on
        [audiences.map { |audience| [audience.id, audience.name, audience.definition.root.key] }, split&.key]
      end

      # @return [Date, nil] a date of the question
      def day(name) = question[name] && Date.iso8601(question[name])

      # @return [Date] the last day looked at: the as-of date, or one before it
      def last_day = [day("to"), workspace.as_of].compact.min

      # @return [Lifecycle::Steps] from a day of the question to the last day
      # @raise [Invalid]
      def steps_of_range
        Lifecycle::Steps.covering(question["step"] || "week", first_day_of_range, last_day)
      rescue Lifecycle::Steps::Invalid => e
        raise Invalid.at("from", e.message)
      end

      # Days before the first event would only be empty periods, however many.
      def first_day_of_range
        asked = day("from") or return first_day
        oldest = workspace.ledger.oldest_day
        oldest&.between?(asked, last_day) ? oldest : asked
      end

      # A year, or as long as there is data.
      def first_day
        oldest = workspace.ledger.oldest_day
        year = last_day - 364
        oldest && oldest > year ? [oldest, last_day].min : year
      end

      # @return [Array<Stored::NamedAudience>] those of the question
      def audiences = @audiences ||= (question["audiences"] || []).map { |id| workspace.stored.audience(id) }

      # @return [Audience::Split, nil] by what the question tells people apart
      # @raise [Audience::Invalid]
      def split = @split ||= question["by"] && told_apart_by(question["by"])

      def told_apart_by(json) = Audience::Split.parse(json, workspace.catalogue, workspace.stored)

      # @return [Lifecycle::RuleSet] the rules, with the day counts that the question tries
      # @raise [Invalid]
      def tried_rules
        days = question.slice("new_for", "active_within", "churned_after").compact
        workspace.rules.with(**days.transform_keys(&:to_sym))
      rescue Lifecycle::RuleSet::Invalid => e
        raise Invalid, e.errors
      end

      def people_in(states, **more) = StatePeople.in(states, workspace.stored.rules_condition, **more)
    end
  end
end
