# frozen_string_literal: true

module EstrelServer
  module Importing
    # What a file holds before it is imported: its columns with first values, what they are taken for, how its times
    # read, and how many of its first rows could be used.
    class Inspection
      # Rows that are tried.
      TRIED = 10_000
      SHOWN = 6
      REASONS = 5
      UNUSABLE = BatchReader::UNUSABLE
      # Our names in JSON files made for Estrel.
      OWN = %w[subject type].freeze

      # @param path [String] of the beginning of a file, or all of it
      # @param file_name [String] as it was called
      # @param given [Hash] `kind` and `mapping`, where somebody has said something
      # @param settings [Settings]
      def initialize(path, file_name, given = {}, settings = EstrelServer.settings)
        @path = path
        @file_name = file_name
        @given = given
        @settings = settings
      end

      # @return [Hash] for the API
      # @raise [InputFile::Unreadable, Mapping::Invalid]
      def result
        source = SourceFile.new(@path, Mapping.new(@given["mapping"] || {}), @settings)
        source.as_lines(limit: TRIED) do |path, encoding|
          @lines = path
          @encoding = encoding
          @file_form = { "encoding" => @given.dig("mapping", "encoding"), "sheet" => source.sheet }
          { encoding: source.encoding, sheets: source.sheets, **read }
        end
      end

      # @param columns [Array<String>]
      # @return [String] names the shape of a file
      def self.shape(columns) = Digest::SHA256.hexdigest(columns.sort.join("\n"))[0, 40]

      private

      def read
        head = FileHead.new(method(:input))
        @own = head.json? ? own?(head.rows) : subjects?(head.rows)
        flat = head.json? && !@own
        @form = head.form(flat)
        rows = head.rows(flat: flat)
        raise InputFile::Unreadable, "no row of this file can be read" if rows.empty?

        guess = ColumnGuess.new(rows, @file_name, Workspace.current.time_zone)
        @columns = rows.flat_map(&:keys).uniq
        settle(guess, head.json?)
        { kind: @kind, own: @own, remembered: @remembered, shape: Inspection.shape(@columns),
          columns: columns(rows), mapping: @mapping.to_h, times: times(guess), check: check(rows) }
      end

      # The beginning of a file ends in the middle of a line, packed ones in the middle of anything.
      def input = InputFile.new(@lines, limit: @settings.unpacked_mb * 1_000_000, encoding: @encoding)

      def own?(rows) = rows.any? && rows.all? { |row| OWN.all? { |name| row.key?(name) } || row.key?("attributes") }

      # Whether a table names people as our own files do: "customer:1042".
      def subjects?(rows)
        kinds = IdentifierKind.ids.keys
        rows.any? { |row| kinds.include?(Identifiers.split(row["subject"].to_s).first) && row["subject"].include?(":") }
      end

      def settle(guess, json)
        said = chosen?
        earlier = said ? nil : remembered
        @remembered = !earlier.nil?
        @kind = @given["kind"] || earlier&.kind || (@own ? own_kind : guess.kind)
        plain = @own ? {} : guess.mapping(kind: @kind, flat: json)
        mapping = said ? @given["mapping"] : (earlier&.mapping || plain).merge(@file_form)
        @mapping = Mapping.new(mapping)
      end

      # Whether somebody has said more than in which form the file is.
      def chosen? = (@given["mapping"] || {}).except(*Mapping::FORM).any?

      def own_kind = @columns.include?("type") ? "events" : "profiles"

      # The last import of a file with the same columns.
      def remembered
        Import.where(shape: Inspection.shape(@columns), state: "done").where("stored > 0").order(:id).last
      end

      def columns(rows)
        @columns.map do |name|
          values = rows.filter_map { |row| row[name] }.reject { |value| value == "" }
          { name: name, values: rows.first(SHOWN).map { |row| shown(row[name]) },
            filled: rows.empty? ? 0.0 : values.size.fdiv(rows.size) }
        end
      end

      def shown(value)
        text = value.is_a?(Hash) || value.is_a?(Array) ? JSON.generate(value) : value
        text&.to_s&.slice(0, 120)
      end

      # How the first time reads in each form in which it can be read.
      def times(guess)
        texts = guess.values(@mapping.column("time"))
        return { ambiguous: false, zoned: true, example: nil, forms: [] } if texts.empty?

        { ambiguous: texts.any? && @mapping.time_format.nil? && slashed?(texts), example: texts.first,
          zoned: texts.all? { |text| Instants.zoned?(text) },
          forms: Instants::FORMATS.filter_map { |format| form(format, texts.first) } }
      end

      def slashed?(texts) = Instants.slashed(texts).nil? && texts.first.match?(Instants::SLASHED)

      def form(format, text)
        read = Instants.new(format, latest: Time.utc(2100), time_zone: "UTC").read(text)
        { format: format, said: "#{Estrel::English.date(Date.iso8601(read[0, 10]))}, #{read[11, 5]}" }
      rescue Instants::Unusable
        nil
      end

      def check(sample)
        reader = reader(sample)
        found = { rows: 0, usable: 0, reasons: Hash.new { |hash, reason| hash[reason] = [0, nil] } }
        each_row do |row|
          found[:rows] += 1
          reader.read(row)
          found[:usable] += 1
        rescue *UNUSABLE => e
          found[:reasons][e.message][0] += 1
          found[:reasons][e.message][1] ||= row.original.to_s.dup.force_encoding("UTF-8").scrub[0, 300]
        end
        reasons = found[:reasons].sort_by { |_, (count, _)| -count }.first(REASONS)
        reasons.map! { |reason, (count, row)| { reason: Estrel::English.sentence(reason), count: count, example: row } }
        { **found, reasons: reasons }
      rescue Instants::Undetectable
        { rows: 0, usable: 0, reasons: [] }
      end

      # Without the last line of what may be only the beginning.
      def each_row
        kept = nil
        tried = 0
        @form.new(input).each do |row|
          yield kept if kept
          kept = row
          break if (tried += 1) > TRIED
        end
        yield kept if kept && whole?
      rescue InputFile::Unreadable
        raise if tried.zero?
      end

      def latest = Time.now.utc + (Workspace.current.future_tolerance_minutes * 60)

      def whole? = @given["whole"] != false

      def reader(sample)
        times = sample.filter_map { |values| values[@mapping.column("time")] }
        instants = Instants.new(@mapping.time_format || Instants.detect(times),
                                latest: latest, earliest: @kind == "profiles" ? nil : Workspace.current.kept_from,
                                time_zone: @mapping.time_zone)
        now = FileImporter::BEGINNING.strftime("%Y-%m-%d %H:%M:%S.%6N") # only tried, never stored
        common = { mapping: @mapping, instants: instants,
                   identifiers: Identifiers.new([*IdentifierKind.ids.keys, *@mapping.custom_ids]),
                   column_types: @form == CsvRows ? FileHead.column_types(sample, @mapping) : {} }
        return ProfileReader.new(observed_at: now, **common) if @kind == "profiles"

        EventReader.new(received_at: now, **common)
      end
    end
  end
end
