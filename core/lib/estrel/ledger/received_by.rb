# frozen_string_literal: true

module Estrel
  class Ledger
    # A ledger as it was known at the end of a date: whatever was received later is left out, read as if it were a
    # ledger of its own. Who is one person is taken as it is known now; links made later are not undone.
    class ReceivedBy
      include Derived

      # A day after every other: nobody who was not known yet has been seen.
      NEVER = Layout::KEY_STEP - 1
      private_constant :NEVER

      # @return [Date]
      attr_reader :date
      # @return [ResultCache, ResultCache::Scope]
      attr_reader :cache

      # @param generation [Generation, Piece, WithoutPersonal]
      # @param date [Date]
      # @param cache [ResultCache, ResultCache::Scope]
      def initialize(generation, date, cache = ResultCache.new)
        @generation = generation
        @date = date
        @received = Polars.col("received_at") < generation.calendar.end_of(date)
        @frames = {}
        @cache = cache
      end

      # @return [Array(String, Array)] see {Generation#reference}
      def reference = @generation.reference.then { |name, steps| [name, [*steps, [:received_by, date]]] }

      # @return [Shelf, nil] see {Generation#shelf}
      def shelf = @generation.shelf

      # @return [Catalogue]
      def catalogue = @generation.catalogue

      # @return [Calendar]
      def calendar = @generation.calendar

      # @return [Hash] see {Generation#facts}
      def facts = @generation.facts

      # @return [Polars::DataFrame] see {Generation#attribute_history}
      def attribute_history = @frames[:attribute_history] ||= @generation.attribute_history.filter(@received)

      # @return [Polars::DataFrame] see {Generation#reach}
      def reach = @frames[:reach] ||= @generation.reach.filter(@received)

      # @return [Polars::DataFrame] see {Generation#origins}
      def origins = @generation.origins

      # @return [Polars::DataFrame] see {Generation#renamed}
      def renamed = @generation.renamed

      # @return [Polars::DataFrame] see {Generation#events}
      def events(type) = @frames[[:events, type]] ||= @generation.events(type).filter(@received)

      # Visits are those of the events that were known.
      #
      # @return [Polars::DataFrame] see {Generation#spine}
      def spine
        @frames[:spine] ||= begin
          known = @generation.spine.filter(Polars.col("received_day") <= Calendar.number(date))
          Spine.visited(known, Spine.system_types(catalogue.event_types.values), visit_gap)
        end
      end

      # @return [Integer] see {Generation#visit_gap}
      def visit_gap = @generation.visit_gap

      # Everybody in the same order; who was not known yet is first seen on no day at all.
      #
      # @return [Polars::DataFrame] see {Generation#profiles}
      def profiles = @frames[:profiles] ||= compute_profiles

      # Values as they stand are those of now, so there are none here.
      #
      # @return [nil]
      def current_attribute(_name) = nil

      # @return [Integer] see {Generation#parts_needed}
      def parts_needed = @generation.parts_needed

      private

      def origin = @generation

      def of_piece(piece) = ReceivedBy.new(piece, date, cache.within([:profiles, piece.range]))

      def compute_profiles
        seen = [attribute_history, reach, *catalogue.event_types.each_key.map { |type| events(type) }].map do |frame|
          frame.lazy.group_by("profile_id").agg([Polars.col("occurred_at").min])
        end
        firsts = Polars.concat(seen).group_by("profile_id").agg([Polars.col("occurred_at").min.alias("first")])
        rows = @generation.profiles.lazy.join(firsts, on: "profile_id", how: "left")
        known = Polars.col("first").is_not_null
        day = Polars.when(known).then(calendar.counted_days(Polars.col("first"))).otherwise(NEVER).cast(Polars::Int32)
        seen = [day.alias("first_seen_day"), Polars.col("first").alias("first_seen_at")]
        rows.with_columns(seen).drop("first").collect
      end
    end
  end
end
