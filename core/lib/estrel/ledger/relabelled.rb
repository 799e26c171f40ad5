# frozen_string_literal: true

module Estrel
  class Ledger
    # A ledger read with another catalogue: other event types marked as no activity, and types apart that are read as
    # one now. Whatever is written by name of a type is cut accordingly.
    class Relabelled < Part
      # @return [Catalogue]
      attr_reader :catalogue

      # @param whole [Readable]
      # @param catalogue [Catalogue] whose types are those of the whole, or such as are merged into them there
      def initialize(whole, catalogue)
        super(whole)
        @catalogue = catalogue
      end

      # @return [Polars::DataFrame] see {Generation#events}
      def events(type) = @frames[[:events, type]] ||= named(type)

      # @return [Polars::DataFrame] see {Generation#spine}
      def spine
        types = catalogue.event_types.values
        return @whole.spine if types.none? { |type| parted?(type.name) }

        @frames[:spine] ||= Spine.of(types.to_h { |type| [type, events(type.name)] }, calendar, visit_gap)
      end

      # The part's rows of a frame: all.
      #
      # @param frame [Polars::DataFrame]
      # @return [Polars::DataFrame]
      def cut(frame) = frame

      private

      def read_as(type) = @whole.catalogue.event_type(type)

      # Whether the type's events are not simply those of the whole's type of that name.
      def parted?(type)
        @whole.catalogue.aliases.any? do |name, target|
          target == read_as(type).name && catalogue.event_types.key?(name)
        end
      end

      def named(type)
        events = @whole.events(read_as(type).name)
        return events unless parted?(type)

        stored = @whole.renamed
        # What other types keep for themselves, and what is this type's own.
        apart = @whole.catalogue.aliases.keys.select { |name| catalogue.event_types.key?(name) }
        own = stored.filter(Polars.col("stored_as") == type)["event_id"]
        others = stored.filter(Polars.col("stored_as").is_in(apart - [type]))["event_id"]
        return events.filter(events["event_id"].is_in(own)) if apart.include?(type)

        events.with_columns([events["event_id"].is_in(others).alias("others")])
              .filter(Polars.col("others").is_not).drop("others")
      end
    end
  end
end
