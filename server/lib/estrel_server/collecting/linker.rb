# frozen_string_literal: true

module EstrelServer
  module Collecting
    # Carries out links between identifiers one after the other, as {Estrel::Identity} decides them, and records what
    # was done.
    #
    # Who holds what is kept in memory; what has been decided is written in rounds, many links at a time. A round ends
    # before a link that rests on what the round has not written yet: a profile that is to be merged again, say.
    #
    # To be used inside a transaction that holds the ingest turn.
    class Linker
      # A link that has been decided. `profile` has both identifiers now; nil where the link was refused.
      Step = Struct.new(:fact, :receipt, :decision, :profile)

      COLUMNS = "receipt_id, one, other, outcome, profile_id, occurred_at, received_at"
      private_constant :COLUMNS

      # @param identity [Importing::Identity]
      def initialize(identity)
        @identity = identity
        begin_round
      end

      # @param facts [Array<Fact>] of kind "link"
      # @param receipts [Array<Integer>] their ids
      # @return [Array<String, nil>] the reason of each that was refused
      def link(facts, receipts)
        @holders = Holders.new(@identity, facts.flat_map { |fact| identifiers(fact) })
        reasons = facts.zip(receipts).map do |fact, receipt|
          decision = decide(fact)
          if rests_on_round?(decision)
            write
            decision = decide(fact) # new profiles have their numbers now
          end
          @steps << Step.new(fact, receipt, decision, settle(decision, fact))
          decision.reason
        end
        write
        reasons
      end

      private

      def identifiers(fact) = Rounds.identifiers(fact)

      def decide(fact)
        Estrel::Identity.decide(*identifiers(fact).map { |identifier| @holders.party(identifier) })
      end

      def begin_round
        @steps = []
        @attached = {}
        @times = {}
        @passed_on = {} # identifiers that changed hands
        @merged = Set.new # profiles that take part in a merge
        @parted = Set.new # profiles that a device goes from or to
      end

      # Whether a link can only be carried out when the round before it has been written. A round is written in a fixed
      # order: new profiles, identifiers that nobody held, merges, devices that go to somebody else.
      def rests_on_round?(decision)
        case decision.action
        when :attached then @merged.include?(decision.into) # the merge keeps who the two were before
        when :merged
          [decision.from, decision.into].any? do |profile|
            @merged.include?(profile) || @parted.include?(profile) || profile >= Holders::PROVISIONAL
          end
        end
      end

      # @return [Integer, nil] the profile that has both identifiers now
      def settle(decision, fact)
        case decision.action
        when :made then @holders.make(identifiers(fact)).tap { |profile| attach(profile, identifiers(fact), fact) }
        when :attached
          @holders.attach(decision.into, [decision.identifier])
          attach(decision.into, [decision.identifier], fact)
        when :merged then merge(decision)
        when :moved then move(decision, fact)
        end
        decision.action == :made ? @attached.fetch(fact.subject) : decision.into
      end

      def attach(profile, identifiers, fact)
        identifiers.each do |identifier|
          @attached[identifier] = profile
          @times[identifier] = times(fact)
        end
      end

      def merge(decision)
        @merged.merge([decision.from, decision.into])
        @holders.merge(decision.from, decision.into).each { |identifier| @passed_on[identifier] = decision.into }
      end

      # The device goes; what it did before stays with whom it belonged to.
      def move(decision, fact)
        others = identifiers(fact) - [decision.identifier]
        @holders.leave(decision.identifier)
        if decision.into.nil?
          decision.into = @holders.make(others)
          attach(decision.into, others, fact)
        end
        @holders.attach(decision.into, [decision.identifier])
        @parted.merge([decision.from, decision.into])
      end

      # Writes the round: new profiles, their identifiers, the links, and what follows from each.
      def write
        made = @holders.settle(@identity)
        @steps.each do |step|
          step.profile = made.fetch(step.profile, step.profile)
          step.decision.from = made.fetch(step.decision.from, step.decision.from)
        end
        @identity.attach(@attached.transform_values { |profile| made.fetch(profile, profile) }, @times)
        ids = record
        @identity.note_earlier(mentioned)
        pairs = steps(:merged, ids).map { |step, id| Merging::Pair.new(id, step.decision.from, step.profile) }
        Merging.carry_out(pairs)
        @identity.remember(@passed_on)
        hand_over(steps(:moved, ids))
        begin_round
      end

      def times(fact) = Importing::Identity::Times.new(fact.occurred_at, fact.received_at)

      # When the round's links that were carried out mentioned identifiers.
      def mentioned
        done = @steps.reject { |step| step.decision.reason }
        Importing::Identity.times(done.flat_map do |step|
          identifiers(step.fact).map { |identifier| [identifier, *times(step.fact).to_a] }
        end)
      end

      # Those of one kind, with the ids of their links.
      def steps(action, ids) = @steps.zip(ids).select { |step, _| step.decision.action == action }

      # @return [Array<Integer>] ids of the links
      def record
        rows = @steps.map do |step|
          [step.receipt, *identifiers(step.fact), step.decision.action.to_s, step.profile, step.fact.occurred_at,
           step.fact.received_at]
        end
        Importing::SQL.insert_numbered("links", COLUMNS, rows)
      end

      # Gives devices to whom they have come.
      #
      # @param moves [Array(Step, Integer)] with the ids of their links
      def hand_over(moves)
        return if moves.empty?

        owners = moves.to_h { |step, _| [step.decision.identifier, step.profile] }
        ids = @identity.reassign(owners, moves.to_h { |step, _| [step.decision.identifier, times(step.fact)] })
        now = Time.now.utc.strftime("%Y-%m-%d %H:%M:%S.%6N")
        rows = moves.map do |step, link|
          [ids.fetch(step.decision.identifier), link, step.decision.from, step.profile, now]
        end
        columns = "identifier_id, link_id, from_profile_id, to_profile_id, moved_at"
        Importing::SQL.insert("identifier_moves", columns, rows)
        IngestTurn.owners_changed
      end
    end
  end
end
