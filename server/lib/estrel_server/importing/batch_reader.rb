# frozen_string_literal: true

module EstrelServer
  module Importing
    # Turns rows of a file into a batch that is ready to be stored.
    class BatchReader
      RESERVED = "\"#{Collecting::FactReader::RESERVED}".freeze
      UNUSABLE = [EventReader::Unusable, Instants::Unusable, Identifiers::Unusable].freeze

      # Rows of the file on their way: as read so far, then split into a block of ordinary events, rows read one by one,
      # and refusals; or `messages` where the order of rows matters.
      Batch = Struct.new(:source_rows, :block, :rows, :messages, :refusals, :bytes_done, keyword_init: true)

      # @param reader [EventReader, ProfileReader]
      # @param ordinary [OrdinaryEvents, OrdinaryRows, nil] for events
      # @param facts [Collecting::FactReader, nil] for JSON lines of events
      def initialize(reader, ordinary: nil, facts: nil)
        @reader = reader
        @ordinary = ordinary
        @facts = facts
      end

      # @param source_rows [Array<Row>]
      # @param bytes_done [Integer] how far into the file they reach
      # @return [Batch]
      def read(source_rows, bytes_done)
        batch = Batch.new(source_rows: source_rows, rows: [], refusals: [], bytes_done: bytes_done)
        return read_in_order(batch) if @facts && source_rows.any? { |row| row.original.include?(RESERVED) }

        batch.block = ordinary(source_rows)
        read_rows(batch.block ? batch.block.rest.map { |index| source_rows[index] } : source_rows, batch)
        batch
      end

      # Reads rows one by one into a batch.
      #
      # @param rows [Array<Row>]
      # @param batch [Batch]
      # @return [void]
      def read_rows(rows, batch)
        rows.each do |row|
          batch.rows << @reader.read(row)
        rescue *UNUSABLE => e
          batch.refusals << Outcome::Refusal.new(row, e.message, false)
        end
      end

      private

      # Links make the order of rows matter, so a batch that may hold some is read and stored row by row.
      def read_in_order(batch)
        batch.messages = batch.source_rows.map { |row| message(row) }
        batch
      end

      def message(row)
        message = Collecting::Message.new(row.number, row.original, nil)
        begin
          raise EventReader::Unusable, row.fault if row.fault

          message = Collecting::Message.new(row.number, row.original, row.values)
          reader = Collecting::FactReader.reserved?(message.values["type"]) ? @facts : @reader
          message.content = reader.read(message)
        rescue *UNUSABLE => e
          message.refuse(e.message)
        end
        message
      end

      def ordinary(source_rows)
        @ordinary&.read(source_rows) if source_rows.none?(&:fault)
      end
    end
  end
end
