# frozen_string_literal: true

module Estrel
  module Analyses
    # What questions name and the ledger does not hold. Here there is nothing of the kind; whoever keeps audiences,
    # rules and runs answers in its place.
    class Stored
      # An audience of a number.
      NamedAudience = Struct.new(:id, :name, :definition, keyword_init: true)
      # A run of an export: its number and as-of date, the instant at which it exported (nil where that is not known),
      # the profile ids of those exported and of the holdout, as series, which share was meant to be in the holdout (nil
      # where that is not known), the channel, and how many of these people have become part of another profile since,
      # as whom they count.
      Run = Struct.new(:id, :as_of, :at, :exported, :holdout, :planned, :channel, :merged, keyword_init: true)

      # A holdout over all marketing: its number, first and last date, whom it holds (an {Exports::Holdout}) and which
      # share of everybody that is.
      StandingHoldout = Struct.new(:id, :from, :to, :holdout, :share, keyword_init: true) do
        # @return [Integer] days after the first one
        def days = [(to - from).to_i, 1].max

        # What it did, as a run does it: at the start of its first day it parted everybody known by then.
        #
        # @param ledger [Ledger::Readable]
        # @return [Run]
        def run(ledger)
          profiles = ledger.profiles
          ids = profiles.filter(Polars.col("first_seen_day") < Calendar.number(from))["profile_id"].cast(Polars::Int64)
          held = holdout.mask(ids)
          others = held.to_frame.select([Polars.col("held").is_not])["held"]
          Run.new(id: id, as_of: from - 1, at: ledger.calendar.start_of(from), exported: ids.filter(others),
                  holdout: ids.filter(held), planned: share)
        end
      end

      # @param id [Integer]
      # @return [NamedAudience]
      # @raise [Invalid]
      def audience(id) = missing("audiences", "audience #{id} does not exist")

      # @param id [Integer] of groups of one's own
      # @param catalogue [Catalogue]
      # @return [Audience::OwnSplit]
      # @raise [Invalid]
      def grouping(id, _catalogue) = missing("by", "custom groups #{id} do not exist")

      # @param json [Hash] a definition as it is written, which may name what is stored
      # @param catalogue [Catalogue]
      # @return [Audience::Definition]
      # @raise [Audience::Invalid]
      def definition(json, catalogue) = Audience::Definition.parse(json, catalogue: catalogue)

      # @param json [Hash] see {Lifecycle::RuleSet#to_h}
      # @return [Lifecycle::RuleSet]
      # @raise [Invalid]
      def rules(_json) = missing("rules", "there are no lifecycle rules yet")

      # @param id [Integer] of a run of an export
      # @return [Run]
      # @raise [Invalid]
      def run(id) = missing("run", "run #{id} does not exist")

      # @param id [Integer] of an export
      # @return [Array<Run>] those that exported people, in their order
      # @raise [Invalid]
      def runs_of(id) = missing("export", "export #{id} does not exist")

      # @param id [Integer] of a standing holdout
      # @return [StandingHoldout]
      # @raise [Invalid]
      def standing_holdout(id) = missing("standing", "global holdout #{id} does not exist")

      # @return [#call] gives the {Lifecycle::Revision::Rules} that applied at the end of a date; nil where they are
      #   those of now
      def past_rules = nil

      # @return [Array<Hash{Symbol => Object}>] when and how the rules changed: `at` (an instant as text) and `what`
      def rule_changes = []

      # @return [Hash] as in a condition on states, names the rules the question is about; empty for the default ones
      def rules_condition = {}

      # @param as_of [Date]
      # @return [Hash{Array(String, String) => Integer}] people exported per name of the export and channel
      def exported_by_name(_as_of) = {}

      private

      def missing(place, message) = raise(Invalid.at(place, message))
    end
  end
end
