# frozen_string_literal: true

require "stringio"

module EstrelServer
  # The properties of old events, many together as Parquet: so they take a fraction of the room that they take in the
  # events' own rows, which say {PACKED} instead. All else about an event stays in its row, where each is told from the
  # others and follows its person.
  class PropertyBlock < Record
    # No event comes with it: properties are an object.
    PACKED = "null"
    COLUMNS = { "event_id" => Polars::Int64, "properties" => Polars::String }.freeze

    # @param rows [Array<Array(Integer, String)>] id of an event and its properties as text
    # @return [String] Parquet
    def self.pack(rows)
      columns = COLUMNS.keys.zip(rows.empty? ? [[], []] : rows.transpose).to_h
      frame = Polars::DataFrame.new(columns, schema_overrides: COLUMNS)
      StringIO.new("".b).tap { |io| frame.write_parquet(io, compression: "zstd") }.string
    end

    # @param content [String] Parquet
    # @return [Polars::DataFrame] as {COLUMNS}
    def self.unpack(content) = Polars.read_parquet(StringIO.new(content))

    # @param ids [Array<Integer>] of events
    # @return [Hash{Integer => String}] properties as text, of those that are packed
    def self.texts(ids)
      by_block(ids).reduce({}) { |found, (block, wanted)| found.merge(find(block).texts.slice(*wanted)) }
    end

    # Takes out what belongs to events that go. To be used inside the transaction that removes them.
    #
    # @param ids [Array<Integer>] of events
    # @return [void]
    def self.forget(ids) = by_block(ids).each { |block, gone| find(block).forget(gone) }

    # @return [Hash{Integer => Array<Integer>}] number of a block to those of the ids that lie in it
    def self.by_block(ids)
      return {} if ids.empty?

      blocks = where(last_event_id: ids.min.., first_event_id: ..ids.max).order(:first_event_id)
                                                                         .pluck(:first_event_id, :last_event_id, :id)
      ids.group_by do |id|
        first, _, block = blocks.bsearch { |range| range[1] >= id }
        block if first && first <= id
      end.except(nil)
    end
    private_class_method :by_block

    # @return [Hash{Integer => String}] id of an event to its properties as text
    def texts = self.class.unpack(content).rows.to_h

    # @param ids [Array<Integer>] of events
    # @return [void]
    def forget(ids)
      left = texts.except(*ids)
      left.empty? ? destroy! : update!(content: self.class.pack(left.to_a))
    end
  end
end
