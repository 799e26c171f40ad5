# frozen_string_literal: true

module EstrelServer
  module LedgerBuilding
    # In which pieces the ledger of everybody is written (see {Estrel::Ledger::Piece}): so many that each is put in
    # order in little memory, and, where several machines answer, that each of them can hold its share.
    class Pieces
      # People of a piece, and events, at most, about.
      PEOPLE = 250_000
      EVENTS = 25_000_000
      # They are cut anew when one holds so many times its share.
      UNEVEN = 1.5
      IDS = "SELECT id FROM profiles WHERE merged_into_id IS NULL ORDER BY id"
      private_constant :UNEVEN, :IDS

      # @param previous [Estrel::Ledger::Generation, nil] the ledger of everybody before
      # @param marks [Hash{String => Integer}] of the store now, see {Snapshot}
      # @param settings [Settings]
      def initialize(previous, marks, settings)
        @previous = previous
        @marks = marks
        @settings = settings
      end

      # @return [Array<Range<Integer>>] of profile ids, without a gap
      def ranges
        before = @previous ? @previous.manifest.pieces : []
        return before.map(&:range) if before.size == count && even?(before)
        return [Estrel::Ledger::Layout::EVERYBODY] if count == 1

        @previous ? Estrel::Ledger::Slice.cut(@previous, count).map(&:range) : of_ids
      end

      # @return [Integer] how many there are to be, as many for each of those who hold some
      def count
        @count ||= begin
          shared = !@settings.nats_urls.empty? && events >= @settings.parts_from_events
          takers = shared ? @settings.parts : 1
          [people.fdiv(PEOPLE), events.fdiv(EVENTS), 1].max.fdiv(takers).ceil * takers
        end
      end

      # @return [Integer] how many there are, about
      def events
        return @marks["events"] unless @previous

        @previous.facts["event_count"] + @marks["events"] - @previous.facts["marks"]["events"]
      end

      private

      def people = @people ||= Profile.where(merged_into_id: nil).count

      # Who is new lies in the last one.
      def even?(before)
        sizes = before.map(&:people)
        sizes[-1] += [people - @previous.base_size, 0].max
        sizes.max <= UNEVEN * sizes.sum.fdiv(sizes.size)
      end

      def of_ids
        ids = Polars::Series.new("id", [], dtype: Polars::Int64)
        Dump.new(@settings).each([IDS], { "id" => Polars::Int64 }) { |rows| ids = rows["id"] }
        cuts = (1...count).map { |piece| ids.len.zero? ? 0 : ids[(ids.len * piece) / count] }
        [0, *cuts].zip([*cuts, Estrel::Ledger::Layout::AFTER_ALL]).map { |first, after| first..(after - 1) }
      end
    end
  end
end
