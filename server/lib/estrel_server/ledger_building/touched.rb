# frozen_string_literal: true

module EstrelServer
  module LedgerBuilding
    # About whom something has come since a ledger was written.
    #
    # Their whole histories can be written into a tail beside it (see {Estrel::Ledger::WithTail}), unless they are too
    # many, or something has changed that is about everybody.
    class Touched
      # Of the people, or of the events, that lie in a tail without anything having to be done about it.
      SHARE = 0.03
      # So many times as many lie there while a new base of a large ledger is prepared.
      WAITING = 4
      # From so many events on that takes so long that nobody waits for it.
      LARGE = 1_000_000
      # So many people, or events of theirs, are never too many.
      FEW = { people: 50, events: 50_000 }.freeze
      PROFILES = {
        "events" => "SELECT DISTINCT profile_id FROM events WHERE id > %<mark>d",
        "profiles" => "SELECT id FROM profiles WHERE id > %<mark>d",
        "identifiers" => "SELECT DISTINCT profile_id FROM identifiers WHERE id > %<mark>d",
        "consents" => "SELECT DISTINCT profile_id FROM consents WHERE id > %<mark>d",
        "merges" => "SELECT from_profile_id FROM merges WHERE id > %<mark>d " \
                    "UNION SELECT into_profile_id FROM merges WHERE id > %<mark>d",
        "moves" => "SELECT from_profile_id FROM identifier_moves WHERE id > %<mark>d AND from_profile_id IS NOT NULL " \
                   "UNION SELECT to_profile_id FROM identifier_moves WHERE id > %<mark>d",
        "attribute_changes" => "SELECT DISTINCT profile_id FROM attribute_changes WHERE id > %<mark>d"
      }.freeze
      private_constant :PROFILES

      # @param previous [Estrel::Ledger::Generation, Estrel::Ledger::WithTail]
      # @param marks [Hash{String => Integer}] of the store now, see {Snapshot}
      def initialize(previous, marks)
        @previous = previous
        @base = previous.is_a?(Estrel::Ledger::WithTail) ? previous.base : previous
        @marks = marks
      end

      # @return [Estrel::Ledger::Generation] the ledger of everybody
      attr_reader :base

      # @return [Integer, nil] of all {#ids}, about
      attr_reader :events

      # @return [Polars::Series, nil] sorted profile ids of all about whom the base is out of date; nil where
      #   everything is to be written anew
      def ids
        @found = { ids: changed_for_all? ? nil : few } if @found.nil?
        @found[:ids]
      end

      # @return [Boolean] whether the tail has grown so long that a new base should be prepared
      def long? = large? && !@share.nil? && @share > 1

      private

      def few
        found = [*known, *since].uniq.sort
        ids = Polars::Series.new("profile_id", found, dtype: Polars::Int64)
        @events = events_of(ids)
        shares = [found.size.fdiv(limit(:people, @base.base_size)),
                  @events.fdiv(limit(:events, @base.spine.height))]
        @share = shares.max
        ids if @share <= (large? ? WAITING : 1)
      end

      def known = @previous.equal?(@base) ? [] : @previous.touched.to_a

      def changed_for_all?
        marks = @base.facts["marks"]
        workspace = Workspace.current
        marks["erasures"] != @marks["erasures"] || @base.facts["attribute_changes"].nil? ||
          @base.calendar.time_zone != workspace.time_zone || @base.visit_gap != workspace.visit_gap ||
          recatalogued?
      end

      def recatalogued?
        types = TypeMap.new
        types.read_as.transform_keys(&:to_s) != @base.facts["read_as"] ||
          said(types.catalogue) != said(@base.catalogue)
      end

      # What a catalogue says but for numbers and sources, on which nothing that is remembered of the base rests.
      def said(catalogue)
        types = catalogue.event_types.values.map { |type| type.to_h.except("count") }
        JSON.generate(catalogue.to_h.except("sources").merge("event_types" => types))
      end

      # One more than there may be is enough to know.
      def since
        most = (WAITING * limit(:people, @base.base_size)) + 1
        marks = { **@previous.facts["marks"], **@previous.facts.slice("attribute_changes") }
        PROFILES.flat_map do |name, statement|
          mark = marks.fetch(name)
          Record.connection.select_values("#{format(statement, mark: mark)} LIMIT #{most}")
        end
      end

      def large? = @base.facts["event_count"] >= LARGE

      # Counted, since numbers leave gaps: each server of a database has its own.
      def events_of(ids)
        before, known = [@previous, @base].map { |ledger| ledger.facts["event_count"] }
        Estrel::Ledger::Rows.count(@base.spine, ids) + before - known +
          Event.where("id > ?", @previous.facts["marks"]["events"]).count
      end

      def limit(what, all) = [(all * SHARE).to_i, FEW.fetch(what)].max
    end
  end
end
