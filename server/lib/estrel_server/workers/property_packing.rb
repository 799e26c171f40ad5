# frozen_string_literal: true

module EstrelServer
  module Workers
    # Puts the properties of events that came long ago together, see {PropertyBlock}: as many at a time as nobody who
    # sends has to wait for.
    class PropertyPacking
      # Events in one transaction.
      EVENTS = 20_000
      # Bytes that a block may have: what the database takes in one statement is 16 MB unless it is told otherwise, and
      # a block is written there with two signs a byte.
      LARGEST = 4 << 20

      # @param events [Integer] in one transaction
      def initialize(events = EVENTS)
        @events = events
      end

      # Packs what has come longest ago, if there is enough that came before an instant.
      #
      # @param before [Time]
      # @return [Integer] how many events; 0 where there is nothing to do
      def step(before)
        Record.transaction do
          IngestTurn.take
          due = Event.where("id > ?", PropertyBlock.maximum(:last_event_id) || 0).order(:id).limit(@events)
                     .pluck(:id, :received_at)
          next 0 if due.size < @events || due.any? { |_, at| at >= before }

          pack(stored(due.first.first, due.last.first))
          due.size
        end
      end

      # Puts properties back into the rows of their events.
      #
      # @return [Integer] how many events; 0 where there is nothing to do
      def undo
        Record.transaction do
          IngestTurn.take
          block = PropertyBlock.order(:last_event_id).last or next 0
          rows = block.texts.to_a
          restore(rows)
          block.destroy!
          rows.size
        end
      end

      private

      def stored(first, last)
        Record.connection.select_rows("SELECT id, properties FROM events WHERE id BETWEEN #{first} AND #{last} " \
                                      "ORDER BY id")
      end

      def pack(rows)
        content = PropertyBlock.pack(rows)
        return halves(rows) if content.bytesize > LARGEST && rows.size > 1
        raise Error, "properties cannot be read again as they were" unless PropertyBlock.unpack(content).rows == rows

        first, last = rows.values_at(0, -1).map(&:first)
        PropertyBlock.create!(first_event_id: first, last_event_id: last, content: content)
        Event.where(id: first..last).update_all("properties = '#{PropertyBlock::PACKED}'")
      end

      def halves(rows) = rows.each_slice((rows.size + 1) / 2) { |half| pack(half) }

      def restore(rows)
        connection = Record.connection
        connection.execute("CREATE TEMPORARY TABLE IF NOT EXISTS unpacked (id BIGINT PRIMARY KEY, properties LONGTEXT)")
        connection.execute("DELETE FROM unpacked")
        Importing::SQL.in_statements("unpacked", "id, properties", rows)
        connection.execute("UPDATE unpacked STRAIGHT_JOIN events ON events.id = unpacked.id " \
                           "SET events.properties = unpacked.properties")
      end
    end
  end
end
