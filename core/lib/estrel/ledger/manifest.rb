# frozen_string_literal: true

require "json"

module Estrel
  class Ledger
    # What is noted of one generation: its catalogue and facts, and which files it consists of. Those about people lie
    # in pieces, one for each stretch of profile ids, so that a large ledger can be written, and held, piece by piece.
    class Manifest
      # People of a stretch of profile ids, in files of their own: file names by what they hold.
      Piece = Struct.new(:range, :people, :files) do
        # @return [Hash] plain JSON
        def to_h = { from: range.begin, to: range.end, people: people, files: files }
      end

      # @param path [String]
      # @return [Manifest]
      # @raise [SystemCallError, JSON::ParserError]
      def self.read(path) = new(JSON.parse(File.read(path)))

      # @return [Array<Piece>] by profile id
      attr_reader :pieces

      # @param json [Hash]
      # @raise [KeyError, TypeError, NoMethodError] where it is none
      def initialize(json)
        @json = json
        @pieces = json.fetch("pieces").map do |piece|
          Piece.new(piece.fetch("from")..piece.fetch("to"), piece.fetch("people"), piece.fetch("files").freeze).freeze
        end
      end

      # @param name [String]
      # @return [Object]
      # @raise [KeyError]
      def fetch(name) = @json.fetch(name)

      # @return [Hash] see {Generation#facts}
      def facts = fetch("facts")

      # @return [String, nil] name of the manifest of which it is the tail
      def base = @json["base"]

      # @return [Hash{String => String}] files of no piece, by what they hold
      def shared = fetch("files")

      # @param held [Held]
      # @return [Array<String>] names of the files that are to be there
      def files(held = Held::ALL)
        own = @pieces.select.with_index { |_, index| held.piece?(index, @pieces.size) }
        [*shared.values, *own.flat_map { |piece| piece.files.values }]
      end

      # @param held [Held]
      # @return [Hash{String => Array(Integer, Integer)}] of these, size and checksum, as they were written
      def written(held = Held::ALL) = fetch("written").slice(*files(held))
    end
  end
end
