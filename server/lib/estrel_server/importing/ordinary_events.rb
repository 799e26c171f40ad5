# frozen_string_literal: true

require "stringio"

module EstrelServer
  module Importing
    # Reads many lines of CloudEvents at once, without a Ruby object per event.
    #
    # Takes only events in the most ordinary form: all of CloudEvents 1.0 as plain text, a time in UTC, flat data.
    class OrdinaryEvents
      include Ordinary

      DATA = "\"data\":\\s*(\\{[^{}]*\\})"
      ENVELOPE_KEYS = "\"(?:specversion|id|source|type|subject|time|receivedat|received_at|data)\"\\s*:"
      # Values of data replaced by a letter for their type, in the order that keeps the later patterns unambiguous.
      SIGNATURE = [[":\\s*\"\\d{4}-\\d\\d-\\d\\dT\\d\\d:\\d\\d:\\d\\d(?:\\.\\d{1,9})?(?:Z|[+-]\\d\\d:\\d\\d)\"", ":T"],
                   [":\\s*\"(?:[^\"\\\\]|\\\\.)*\"", ":S"],
                   [":\\s*-?(?:0|[1-9]\\d{0,14})(?:\\.\\d{1,15})?\\s*([,}])", ":N${1}"],
                   [":\\s*(?:true|false)", ":B"], [":\\s*null", ":0"], [",\\s+", ","]].freeze
      SIGNATURE_FORM = "^\\{(?:\"[A-Za-z0-9_ .-]+\":[TSNB0](?:,\"[A-Za-z0-9_ .-]+\":[TSNB0])*)?\\}$"
      COLUMNS = %w[specversion id source type subject time receivedat].to_h { |name| [name, Polars::String] }.freeze

      # @param mapping [Mapping]
      # @param kinds [Array<String>] the identifier kinds there are
      # @param latest [Time] the latest instant accepted
      # @param received_at [String] for events that carry no time of receipt
      # @param earliest [Time, nil] from when on events are kept
      def initialize(mapping:, kinds:, latest:, received_at:, earliest: nil)
        @plain = mapping.plain?
        @subject = identifier_form(kinds)
        @earliest, @latest = [earliest, latest].map { |time| (time.to_r * 1_000_000).to_i }
        @received_at = received_at
      end

      # @param rows [Array<Row>] of lines that are valid UTF-8, none blank
      # @return [Block, nil] nil where the lines cannot be read together
      def read(rows)
        return unless @plain

        lines = rows.map(&:original)
        text = lines.join("\n")
        frame = Polars.read_ndjson(StringIO.new(text), schema: COLUMNS)
        return unless frame.height == lines.size

        frame = parts(frame.with_columns([Polars::Series.new("line", lines)])).with_row_index(name: "row")
        ordinary = frame.filter(conditions(frame))
        shapes, ordinary = without_odd_shapes(ordinary)
        Block.new(columns(ordinary, received), shapes, (0...lines.size).to_a - ordinary["row"].to_a)
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

      def signature
        SIGNATURE.reduce(Polars.col("data")) { |text, (pattern, letter)| text.str.replace_all(pattern, letter) }
      end

      def conditions(frame)
        column = ->(name) { Polars.col(name) }
        twice = frame.select(%w[source id]).is_duplicated
        [column["specversion"] == "1.0", *plain_names,
         column["subject"].str.contains(@subject), column["time"].str.contains(TIME), accepted_time,
         column["opened"] == 2, column["signature"].str.contains(SIGNATURE_FORM),
         column["envelope"].str.count_matches(ENVELOPE_KEYS) == received_keys,
         column["line"].str.contains("[\\t\\r]|\\\\u[dD][89a-fA-F]").is_not, Polars.lit(twice).is_not]
          .map { |condition| condition.fill_null(false) }.reduce(:&)
      end

      def accepted_time = Polars.col("occurred").is_between(@earliest, @latest)

      # Seven keys of the envelope, each once, and an eighth where the event carries its time of receipt.
      def received_keys
        given = Polars.col("receivedat").str.contains(TIME) & (Polars.col("received") <= @latest)
        Polars.when(given.fill_null(false)).then(8).otherwise(7)
      end

      # Where the event carries it, the time of receipt.
      def received
        Polars.when(Polars.col("received").is_null).then(Polars.lit(@received_at)).otherwise(database_text("received"))
      end
    end
  end
end
