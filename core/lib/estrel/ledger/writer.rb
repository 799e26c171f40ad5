# frozen_string_literal: true

require "fileutils"
require "securerandom"

module Estrel
  class Ledger
    # Writes one new generation beside the current one and switches to it when it is complete.
    #
    # Files that did not change are carried over by name. Nothing a reader can see changes before {#commit}; a writer
    # that dies half-way leaves stray files that a later commit clears away. One writer at a time, and beside it one
    # that prepares a base for tails to come: the caller holds the locks.
    class Writer
      # @param directory [String]
      # @param calendar [Calendar] gives the `day` columns
      # @param carry_over [Generation, nil] whose unchanged files are kept
      # @param prepares [Boolean] whether it is a base for tails to come, and switches nothing, see {Ledger#prepared}
      # @param kept [Numeric] seconds for which every generation is kept, for whoever is reading it or taking it, see
      #   {Replica}
      def initialize(directory, calendar:, carry_over: nil, prepares: false, kept: 0)
        @directory = directory.to_s
        @calendar = calendar
        FileUtils.mkdir_p(@directory)
        @place = Directory.new(@directory, seconds: kept)
        @number = next_number
        @token = SecureRandom.hex(4) # tells apart what has the same number
        @prepares = prepares
        @place.replace(PREPARING, @token) if prepares
        @carried = carry_over&.manifest
        @shared = @carried ? @carried.shared.dup : {}
        @written = @carried ? @carried.fetch("written").dup : {}
        @pieces = []
        @own = []
      end

      # Puts what follows into files of a stretch of profile ids of its own. What is put before belongs to everybody.
      #
      # @param range [Range<Integer>] after those of the pieces before; all of them leave no gap
      # @param index [Integer] how many pieces come before it, here or in other processes
      # @return [void]
      def begin_piece(range, index = @pieces.size)
        kept = @carried&.pieces&.find { |piece| piece.range == range }
        @index = index
        @pieces << Manifest::Piece.new(range, kept&.people, kept ? kept.files.dup : {})
      end

      # Takes over a piece that another process has written with a copy of this writer.
      #
      # @param piece [Manifest::Piece]
      # @param written [Hash{String => Array(Integer, Integer)}] see {#last_piece}
      # @return [void]
      def take_piece(piece, written)
        @pieces << piece
        @written.merge!(written)
        @own.concat(written.keys.select { |file| own?(file) })
      end

      # Brings here what another machine has written of this generation.
      #
      # @param written [Hash{String => Array(Integer, Integer)}] see {#last_piece}
      # @yield see {Fetch#run}
      # @return [void]
      # @raise [Missing, Damaged]
      def fetch(written, &) = Fetch.new(@directory).run(written.select { |file, _| own?(file) }, &)

      # @return [Array(Manifest::Piece, Hash)] the piece that was written last, and size and checksum of its files
      def last_piece = [piece, @written.slice(*piece.files.values)]

      # What goes to another process, which writes pieces of the same generation.
      #
      # @return [Array]
      def marshal_dump = [@directory, time_zone, @number, @token, @carried]

      # @return [void]
      def marshal_load(dumped)
        @directory, zone, @number, @token, @carried = dumped
        @calendar = Calendar.new(zone)
        @written = @carried ? @carried.fetch("written").dup : {}
        @pieces = []
        @own = []
      end

      # Writes into another directory from now on, on another machine.
      #
      # @param directory [String]
      # @return [void]
      def move_to(directory)
        FileUtils.mkdir_p(directory)
        @directory = directory.to_s
      end

      # @param logical [String] name of a file of the piece
      # @return [Boolean] whether the previous one is kept unless another is put
      def carries?(logical) = piece.files.key?(logical)

      # @return [Calendar] of the days it writes
      attr_reader :calendar

      # @return [String]
      def time_zone = @calendar.time_zone

      # @param type_id [Integer]
      # @param frame [Polars::DataFrame] the columns of {Layout::EVENT_COLUMNS} but `day`, and typed properties
      # @return [void]
      def put_events(type_id, frame) = put_sorted_events(type_id, with_days(frame).sort(Layout::EVENT_ORDER))

      # @param type_id [Integer]
      # @param sorted [Polars::DataFrame] the columns of {Layout::EVENT_COLUMNS} and typed properties, in
      #   {Layout::EVENT_ORDER}
      # @return [Polars::DataFrame] the same, as it stands in the file
      def put_sorted_events(type_id, sorted) = put("events/#{type_id}", sorted)

      # @param frame [Polars::DataFrame] as {Spine::COLUMNS}
      # @return [void]
      def put_spine(frame) = put("spine", frame)

      # @param frame [Polars::DataFrame] with `occurred_at`
      # @return [Polars::DataFrame] the same with `day`, as the calendar has it
      def with_days(frame) = frame.with_columns([@calendar.counted_days(Polars.col("occurred_at")).alias("day")])

      # @param frame [Polars::DataFrame] as {Layout::PROFILE_COLUMNS} without `first_seen_day`, typed attributes and
      #   identifiers beside them
      # @return [void]
      def put_profiles(frame)
        with_day = frame.with_columns([@calendar.counted_days(Polars.col("first_seen_at")).alias("first_seen_day")])
        piece.people = frame.height
        put("profiles", with_day.sort("profile_id"))
      end

      # @param frame [Polars::DataFrame] as {Layout::HISTORY_COLUMNS}
      # @return [void]
      def put_attribute_history(frame)
        put("attribute_history", frame.sort(Layout::HISTORY_ORDER))
      end

      # @param frame [Polars::DataFrame] as {Layout::REACH_COLUMNS}
      # @return [void]
      def put_reach(frame)
        put("reach", frame.sort(Layout::REACH_ORDER))
      end

      # @param frame [Polars::DataFrame] as {Layout::ORIGIN_COLUMNS}
      # @return [void]
      def put_origins(frame)
        put("origins", frame.sort("profile_id"))
      end

      # @param frame [Polars::DataFrame] as {Layout::RENAMED_COLUMNS}
      # @return [void]
      def put_renamed(frame)
        put("renamed", frame, @shared)
      end

      # Makes this generation the tail of another, see {WithTail}.
      #
      # @param base [Generation]
      # @param ids [Polars::Series] sorted ids of the people about whom the base is out of date
      # @return [void]
      def put_touched(base, ids)
        @base = base
        @outdated = Rows.count(base.profiles.select(["profile_id"]), ids)
        put("touched", ids.alias("profile_id").to_frame, @shared)
      end

      # Makes the new generation the current one.
      #
      # @param catalogue [Catalogue]
      # @param facts [Hash] plain JSON, see {Generation#facts}
      # @return [String] name of the manifest
      def commit(catalogue:, facts:)
        name = "generation-#{@number}-#{@token}.json"
        begin_piece(Layout::EVERYBODY) if @pieces.empty?
        @place.replace(name, JSON.generate(manifest(catalogue, facts)))
        @place.replace(@prepares ? PREPARED : CURRENT, name)
        # Who only prepares does not know what is being written beside.
        @prepares ? FileUtils.rm_f(File.join(@directory, PREPARING)) : @place.clear_old
        name
      end

      # Removes what has been written so far, where it will not be committed.
      #
      # @return [void]
      def abandon = @own.each { |file| FileUtils.rm_f(File.join(@directory, file)) }

      private

      # Whether it is not carried over.
      def own?(file) = file.end_with?("-#{@token}.arrow")

      def manifest(catalogue, facts)
        files = [*@shared.values, *@pieces.flat_map { |piece| piece.files.values }]
        people = @pieces.sum(&:people)
        { generation: @number, time_zone: @calendar.time_zone, catalogue: catalogue.to_h, facts: facts, files: @shared,
          pieces: @pieces.map(&:to_h), people: @base ? @base.base_size - @outdated + people : people,
          written: @written.slice(*files), base: @base&.manifest_name }.compact
      end

      # The one that is being written; that of everybody where none has been begun.
      def piece
        begin_piece(Layout::EVERYBODY) if @pieces.empty?
        @pieces.last
      end

      def put(logical, frame, files = piece.files)
        file = "#{[logical.tr("/", "-"), *(@index + 1 if @index.to_i.positive?), @number, @token].join("-")}.arrow"
        path = File.join(@directory, file)
        @own << file
        OnePiece.of(frame).write_ipc(path, compression: "uncompressed")
        File.open(path, &:fsync)
        @written[file] = FileChecks.of(path)
        files[logical] = file
        Generation.mapped(path)
      end

      def next_number = (@place.manifests.map { |name| name[/\d+/].to_i }.max || 0) + 1
    end
  end
end
