# frozen_string_literal: true

module Estrel
  class Ledger
    # One complete state of the ledger, opened for reading.
    #
    # Files are memory-mapped: opening costs milliseconds and processes share the pages. A generation that has been
    # replaced stays readable for whoever holds it. Results derived from it are kept in its {#cache}.
    class Generation
      include Readable
      include Frames

      # @return [String] where its files are
      attr_reader :directory
      # @return [String] file name of the manifest
      attr_reader :manifest_name
      # @return [Integer]
      attr_reader :number
      # @return [Catalogue]
      attr_reader :catalogue
      # @return [Calendar]
      attr_reader :calendar
      # @return [ResultCache, ResultCache::Scope]
      attr_reader :cache
      # @return [Shelf, nil] what its parts have answered
      attr_reader :shelf

      MANIFEST = /\Ageneration-\d+-\h+\.json\z/ # linear: one run follows the other

      # @param directory [String]
      # @param manifest_name [String]
      # @param shelf [Shelf, nil]
      # @param held [Held] the pieces that are here
      # @param cache [ResultCache, ResultCache::Scope] where its results are remembered
      # @return [Generation]
      # @raise [Damaged] where the manifest cannot be read; the files are not looked at
      def self.open(directory, manifest_name, shelf: nil, held: Held::ALL, cache: ResultCache.new)
        json = JSON.parse(File.read(File.join(directory, manifest_name)))
        form = json.fetch("facts")["form"] || Layout::FORM
        raise Damaged, "#{manifest_name} is of form #{form} instead of #{Layout::FORM}" unless form == Layout::FORM

        new(directory, manifest_name, Manifest.new(json), shelf: shelf, held: held, cache: cache)
      rescue SystemCallError, JSON::ParserError, KeyError, TypeError, NoMethodError => e
        raise Damaged, "#{manifest_name} cannot be read (#{e.class})"
      end

      # @param path [String] of one of its files
      # @return [Polars::DataFrame] memory-mapped
      # @raise [Missing] where it is gone, long after the generation has been replaced
      def self.mapped(path)
        Polars.read_ipc(path, memory_map: true, rechunk: false)
      rescue RuntimeError
        raise if File.exist?(path)

        raise Missing, "#{File.basename(path)} of the ledger is gone"
      end

      def initialize(directory, manifest_name, manifest, shelf: nil, held: Held::ALL, cache: ResultCache.new)
        @directory = directory
        @shelf = shelf
        @manifest_name = manifest_name
        @manifest = manifest
        @number = manifest.fetch("generation")
        @catalogue = Catalogue.from_h(manifest.fetch("catalogue"))
        @calendar = Calendar.new(manifest.fetch("time_zone"))
        @held = held
        @frames = {}
        @mutex = Monitor.new
        @cache = cache
      end

      # @return [Manifest]
      attr_reader :manifest

      # @return [String, nil] manifest of the generation of which this one is the tail, see {WithTail}
      def base_name = manifest.base

      # @return [Hash] what the builder noted: event count, newest event, newest receipt, high-water mark
      def facts = manifest.facts

      # @return [Polars::DataFrame] events read as another type; see {Layout::RENAMED_COLUMNS}
      def renamed = frame("renamed")

      # @return [Polars::Series, nil] of a tail: ids of the people about whom its base is out of date
      def touched = base_name && frame("touched")["profile_id"]

      # @return [Integer] the longest gap inside a visit, microseconds
      def visit_gap = facts.fetch("visit_gap")

      # @return [Hash{String => Array(Integer, Integer)}] name to size and checksum of the files that are to be here, as
      #   they were written
      def written = manifest.written(@held)

      # @return [Array(String, Array)] how another process finds it, see {Ledger#referred}
      def reference = [manifest_name, []]

      # @return [Integer] how many profiles there are
      def base_size = manifest.pieces.sum(&:people)

      # @return [Array<Generation, Piece>] by profile id; the generation itself where it lies in one
      def pieces
        @pieces ||= if manifest.pieces.one? then [self]
                    else manifest.pieces.each_with_index.map { |noted, index| Piece.new(self, index, noted) }
                    end
      end

      # What is found under a name in one piece.
      #
      # @param index [Integer] of the piece
      # @param name [String] see {Frames}
      # @return [Polars::DataFrame] memory-mapped
      # @raise [Missing] where that piece is not here
      def of_piece(index, name)
        unless @held.piece?(index, manifest.pieces.size)
          raise Missing, "piece #{index + 1} of #{manifest.pieces.size} of the ledger is not kept here"
        end

        @mutex.synchronize { @frames[[index, name]] ||= mapped(manifest.pieces.fetch(index).files.fetch(name)) }
      end

      # @return [Integer] in how many parts it has to be asked at least, see {Timeline.parts}
      def parts_needed
        oldest, newest = facts.values_at("oldest_occurred_at", "newest_occurred_at")
        return pieces.size unless oldest && base_size.positive?

        inhabited = pieces.reject { |piece| piece.base_size.zero? }
        pieces.size * inhabited.map { |piece| Timeline.parts(piece.ids, newest - oldest) }.max
      end

      # One of so many parts that take about as long to be asked. No part reaches from one piece into the next, and the
      # other pieces need not be here.
      #
      # @param count [Integer] a multiple of the number of {#pieces}
      # @param index [Integer]
      # @return [Readable] the generation itself where there is one part
      def part(count, index)
        place, within = index.divmod(count / pieces.size)
        @mutex.synchronize do
          cuts = (@cuts ||= {})[[count, place]] ||= Slice.cut(pieces.fetch(place), count / pieces.size)
          cuts.fetch(within)
        end
      end

      # The ledger as it was known at the end of a date: without everything that was received later.
      #
      # @param date [Date]
      # @return [ReceivedBy] the one asked for last is kept
      def received_by(date)
        @mutex.synchronize do
          @known = ReceivedBy.new(self, date, cache.within([:received_by, date])) unless @known&.date == date
        end
        @known
      end

      # The ledger for whoever must not ask about personal data; the one asked for last is kept.
      #
      # @param properties [Hash{String => Array<String>}] see {Catalogue#without}
      # @param attributes [Array<String>]
      # @return [WithoutPersonal]
      def without_personal(properties, attributes)
        key = [properties, attributes]
        @mutex.synchronize do
          @without = [key, WithoutPersonal.new(self, properties, attributes)] unless @without&.first == key
          @without.last
        end
      end

      private

      def frame(name)
        @mutex.synchronize do
          @frames[name] ||= manifest.shared.key?(name) ? mapped(manifest.shared.fetch(name)) : of_pieces(name)
        end
      end

      # Below each other, without being copied.
      def of_pieces(name)
        first, *others = manifest.pieces.each_index.map { |index| of_piece(index, name) }
        others.reduce(first.vstack(first.head(0))) { |whole, frame| whole.vstack(frame, in_place: true) }
      end

      def mapped(file) = Generation.mapped(File.join(@directory, file))
    end
  end
end
