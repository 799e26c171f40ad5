# frozen_string_literal: true

require "stringio"

module EstrelServer
  module Importing
    # Reads many lines of CloudEvents at once, without a Ruby object per event.
    #
    # Takes only events in the most ordinary form: all of CloudEvents 1.0 as plain text, a time in UTC, flat data.
    # Whatever departs from it in any way is left for {EventReader}, which reads one row at a time, knows every rule and
    # says what is wrong. So this class decides nothing; it is a faster way to the same result.
    class OrdinaryEvents
      TEXT = "^[!-~]+$"
      TIME = "^(?:19[789]\\d|20\\d\\d)-\\d\\d-\\d\\dT\\d\\d:[0-5]\\d:[0-5]\\d(?:\\.\\d{1,6})?Z$"
      DATA = "\"data\":\\s*(\\{[^{}]*\\})"
      ENVELOPE_KEYS = "\"(?:specversion|id|source|type|subject|time|receivedat|received_at|data)\"\\s*:"
      # Values of data replaced by a letter for their type, in the order that keeps the later patterns unambiguous.
      SIGNATURE = [[":\\s*\"\\d{4}-\\d\\d-\\d\\dT\\d\\d:\\d\\d:\\d\\d(?:\\.\\d{1,9})?(?:Z|[+-]\\d\\d:\\d\\d)\"", ":T"],
                   [":\\s*\"(?:[^\"\\\\]|\\\\.)*\"", ":S"],
                   [":\\s*-?(?:0|[1-9]\\d{0,14})(?:\\.\\d{1,15})?\\s*([,}])", ":N${1}"],
                   [":\\s*(?:true|false)", ":B"], [":\\s*null", ":0"], [",\\s+", ","]].freeze
      LETTERS = { "time" => "T", "text" => "S", "number" => "N", "boolean" => "B", nil => "0" }.freeze
      SIGNATURE_FORM = "^\\{(?:\"[A-Za-z0-9_ .-]+\":[TSNB0](?:,\"[A-Za-z0-9_ .-]+\":[TSNB0])*)?\\}$"
      COLUMNS = %w[specversion id source type subject time receivedat].to_h { |name| [name, Polars::String] }.freeze

      # What was read: `frame` has source, key, type, subject, occurred_at, received_at, properties as text, ready for
      # the database, and `row` for the position; `examples` one event per shape of properties; `rest` the positions
      # left over.
      Block = Struct.new(:frame, :examples, :rest)

      # @param mapping [Mapping]
      # @param kinds [Array<String>] the identifier kinds there are
      # @param latest [Time] the latest instant accepted
      # @param received_at [String] for events that carry no time of receipt
      def initialize(mapping:, kinds:, latest:, received_at:)
        @plain = mapping.plain?
        @subject = "^(?:#{kinds.map { |kind| Regexp.escape(kind) }.join("|")}):[!-~]+$"
        @latest = (latest.to_r * 1_000_000).to_i
        @received_at = received_at
      end

      # @param lines [Array<String>] valid UTF-8, none blank
      # @return [Block, nil] nil where the lines cannot be read together
      def read(lines)
        return unless @plain

        text = lines.join("\n")
        frame = Polars.read_ndjson(StringIO.new(text), schema: COLUMNS)
        return unless frame.height == lines.size

        frame = parts(frame.with_columns([Polars::Series.new("line", lines)])).with_row_index(name: "row")
        ordinary = frame.filter(conditions(frame))
        examples, ordinary = without_odd_shapes(ordinary)
        Block.new(columns(ordinary), examples, (0...lines.size).to_a - ordinary["row"].to_a)
      rescue Polars::Error
        nil
      end

      private

      def parts(frame)
        line = Polars.col("line")
        frame.with_columns([
                             line.str.extract(DATA).alias("data"),
                             line.str.replace(DATA, "\"data\":").alias("envelope"),
                             line.str.count_matches("{", literal: true).alias("opened"),
                             micros("time").alias("occurred"), micros("receivedat").alias("received")
                           ])
             .with_columns([signature.alias("signature")])
      end

      def micros(column)
        Polars.col(column).str.strptime(Polars::Datetime.new("us"), "%Y-%m-%dT%H:%M:%S%.fZ", strict: false)
              .cast(Polars::Int64)
      end

      def signature
        SIGNATURE.reduce(Polars.col("data")) { |text, (pattern, letter)| text.str.replace_all(pattern, letter) }
      end

      def conditions(frame)
        column = ->(name) { Polars.col(name) }
        twice = frame.select(%w[source id]).is_duplicated
        [column["specversion"] == "1.0", *plain_names,
         column["subject"].str.contains(@subject), column["time"].str.contains(TIME), column["occurred"] <= @latest,
         column["opened"] == 2, column["signature"].str.contains(SIGNATURE_FORM),
         column["envelope"].str.count_matches(ENVELOPE_KEYS) == received_keys,
         column["line"].str.contains("[\\t\\r]|\\\\u[dD][89a-fA-F]").is_not, Polars.lit(twice).is_not]
          .map { |condition| condition.fill_null(false) }.reduce(:&)
      end

      def plain_names
        %w[id source type].map { |name| Polars.col(name).str.contains(TEXT) } +
          %w[id source type subject].map { |name| Polars.col(name).str.len_bytes <= Names::MAX }
      end

      # Seven keys of the envelope, each once, and an eighth where the event carries its time of receipt.
      def received_keys
        given = Polars.col("receivedat").str.contains(TIME) & (Polars.col("received") <= @latest)
        Polars.when(given.fill_null(false)).then(8).otherwise(7)
      end

      # One example per event type and shape of properties goes through the usual checks; shapes whose example fails
      # are left over.
      def without_odd_shapes(frame)
        shapes = frame.unique(subset: %w[type signature], maintain_order: true).select(%w[type signature data])
        sound, odd = shapes.rows.partition { |_, signature, data| sound?(signature, data) }
        odd.each do |type, signature, _|
          frame = frame.filter(((Polars.col("type") == type) & (Polars.col("signature") == signature)).is_not)
        end
        [sound.map { |type, _, data| [type, EventJson.parse(data)] }, frame]
      end

      def sound?(signature, data)
        properties = EventJson.parse(data)
        properties.size <= EventReader::MAX_PROPERTIES &&
          properties.each_key.all? { |name| name.length <= Names::MAX && !name.strip.empty? } &&
          signature.scan(/:([TSNB0])/).flatten == properties.each_value.map { |value| letter(value) }
      end

      def letter(value) = LETTERS[Values.type(value)]

      def columns(frame)
        received = Polars.when(Polars.col("received").is_null).then(Polars.lit(@received_at))
                         .otherwise(database_text("received"))
        frame.select([Polars.col("row"), Polars.col("source"), Polars.col("id").alias("key"), Polars.col("type"),
                      Polars.col("subject"), database_text("occurred").alias("occurred_at"),
                      received.alias("received_at"), Polars.col("data").alias("properties")])
      end

      def database_text(column)
        Polars.col(column).cast(Polars::Datetime.new("us")).dt.strftime("%Y-%m-%d %H:%M:%S%.6f")
      end
    end
  end
end
