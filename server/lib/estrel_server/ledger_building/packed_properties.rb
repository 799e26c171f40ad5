# frozen_string_literal: true

module EstrelServer
  module LedgerBuilding
    # Puts properties that are packed ({PropertyBlock}) back to their events. Which blocks there are is read at once,
    # from the snapshot of the thread that makes this.
    class PackedProperties
      def initialize
        @blocks = PropertyBlock.order(:first_event_id).pluck(:first_event_id, :last_event_id, :id)
      end

      # @param connection [ActiveRecord::ConnectionAdapters::AbstractAdapter] with the same snapshot
      # @param ids [Range] of events
      # @return [Array<String>] Parquet of the blocks that hold some of them
      def content(connection, ids)
        first = @blocks.bsearch_index { |_, last, _| last >= ids.first } || @blocks.size
        @blocks.drop(first).take_while { |from, _, _| from <= ids.last }.map do |_, _, block|
          connection.select_value("SELECT content FROM property_blocks WHERE id = #{block}")
        end
      end

      # @param events [Polars::DataFrame] with `event_id` and `properties`
      # @param blocks [Array<String>] what {#content} says of them
      # @return [Polars::DataFrame] the same rows
      # @raise [Error] where properties should be packed and are not
      def into(events, blocks)
        own = Polars.col("properties")
        packed = own == PropertyBlock::PACKED
        return events if events.filter(packed).height.zero?

        found = [PropertyBlock.pack([]), *blocks].map { |content| PropertyBlock.unpack(content) }
        joined = events.join(Polars.concat(found).rename({ "properties" => "unpacked" }), on: "event_id", how: "left")
        check(joined.filter(packed)["unpacked"].null_count)
        joined.with_columns(Polars.when(packed).then(Polars.col("unpacked")).otherwise(own).alias("properties"))
              .drop("unpacked")
      end

      private

      def check(missing)
        raise Error, "the properties of #{Estrel::English.counted(missing, "event")} are missing" if missing.positive?
      end
    end
  end
end
