# frozen_string_literal: true

module Estrel
  class Ledger
    # A part of a ledger, by profile: the same files with some profiles' rows only. Whatever is computed per profile can
    # be computed of a part.
    #
    # A subclass says which rows, with `cut`.
    class Part
      include Readable

      # @return [ResultCache, ResultCache::Scope]
      attr_reader :cache

      # @param whole [Readable]
      # @param cache [ResultCache, ResultCache::Scope] where results of this part are remembered
      def initialize(whole, cache = ResultCache.new)
        @whole = whole
        @frames = {}
        @cache = cache
      end

      # What a cache takes it to weigh: its rows are taken one stretch after the other, as far as they are asked for.
      #
      # @return [Integer] bytes
      def estimated_size = base_size * 500

      # @return [Catalogue]
      def catalogue = @whole.catalogue

      # @return [Hash] see {Generation#facts}
      def facts = @whole.facts

      # @return [Calendar]
      def calendar = @whole.calendar

      # @return [Polars::DataFrame] see {Generation#profiles}
      def profiles = own(:profiles) { @whole.profiles }

      # @return [Polars::DataFrame] see {Generation#attribute_history}
      def attribute_history = own(:attribute_history) { @whole.attribute_history }

      # @return [Polars::DataFrame] see {Generation#reach}
      def reach = own(:reach) { @whole.reach }

      # @return [Polars::DataFrame] see {Generation#origins}
      def origins = own(:origins) { @whole.origins }

      # @return [Polars::DataFrame] see {Generation#renamed}
      def renamed = @whole.renamed

      # @return [Polars::DataFrame] see {Generation#events}
      def events(type) = own([:events, type]) { @whole.events(type) }

      # @return [Polars::DataFrame] see {Generation#spine}
      def spine = own(:spine) { @whole.spine }

      # @return [Integer] see {Generation#visit_gap}
      def visit_gap = @whole.visit_gap

      # @return [Polars::Series, nil] see {Generation#current_attribute}
      def current_attribute(name)
        values = @whole.current_attribute(name) or return
        cut(@whole.profiles.select(["profile_id"]).with_columns([values.alias("value")]))["value"]
      end

      private

      def own(name) = @frames[name] ||= cut(yield)
    end
  end
end
