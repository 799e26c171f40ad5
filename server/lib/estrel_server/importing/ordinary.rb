# frozen_string_literal: true

module EstrelServer
  module Importing
    # What many rows that are read at once have in common, be they lines of JSON or of CSV: the forms of their parts,
    # and what becomes of them.
    #
    # Only the most ordinary form is taken. Whatever departs from it in any way is left for {EventReader}, which reads
    # one row at a time, knows every rule and says what is wrong. So nothing is decided here; it is a faster way to the
    # same result.
    module Ordinary
      TEXT = "^[!-~]+$"
      TIME = "^(?:19[789]\\d|20\\d\\d)-\\d\\d-\\d\\dT\\d\\d:[0-5]\\d:[0-5]\\d(?:\\.\\d{1,6})?Z$"
      LETTERS = { "time" => "T", "text" => "S", "number" => "N", "boolean" => "B", nil => "0" }.freeze

      # What was read: `frame` has source, key, type, subject, occurred_at, received_at, properties as text, ready for
      # the database, `signature` for the shape of the properties and `row` for the position; `shapes` one event, as
      # type and properties, for each type and signature; `rest` the positions left over.
      Block = Struct.new(:frame, :shapes, :rest) do
        # @param part [Polars::DataFrame] some of the frame's rows
        # @return [Array<Array(String, Hash)>] type and properties of one event per shape there is among them
        def examples(part = frame)
          return shapes.values if part.height == frame.height

          part.select(%w[type signature]).unique(maintain_order: true).rows.map { |shape| shapes.fetch(shape) }
        end
      end

      private

      # @param kinds [Array<String>]
      # @return [String] the form of `kind:value`
      def identifier_form(kinds) = "^(?:#{kinds.map { |kind| Regexp.escape(kind) }.join("|")}):[!-~]+$"

      def micros(column)
        Polars.col(column).str.strptime(Polars::Datetime.new("us"), "%Y-%m-%dT%H:%M:%S%.fZ", strict: false)
              .cast(Polars::Int64)
      end

      def plain_names
        %w[id source type].map { |name| Polars.col(name).str.contains(TEXT) } +
          %w[id source type subject].map { |name| Polars.col(name).str.len_bytes <= Names::MAX }
      end

      # One example per event type and shape of properties goes through the usual checks; shapes whose example fails
      # are left over.
      #
      # @param frame [Polars::DataFrame] with type, signature and data
      # @return [Array(Hash, Polars::DataFrame)] the shapes, as a {Block} has them, and the rows that are left
      def without_odd_shapes(frame)
        shapes = frame.unique(subset: %w[type signature], maintain_order: true).select(%w[type signature data])
        sound, odd = shapes.rows.partition { |_, signature, data| sound?(signature, data) }
        odd.each do |type, signature, _|
          frame = frame.filter(((Polars.col("type") == type) & (Polars.col("signature") == signature)).is_not)
        end
        [sound.to_h { |type, signature, data| [[type, signature], [type, EventJson.parse(data)]] }, frame]
      end

      def sound?(signature, data)
        properties = EventJson.parse(data)
        properties.size <= EventReader::MAX_PROPERTIES &&
          properties.each_key.all? { |name| name.length <= Names::MAX && !name.strip.empty? } &&
          signature.scan(/:([TSNB0])/).flatten == properties.each_value.map { |value| letter(value) }
      end

      def letter(value) = LETTERS[Values.type(value)]

      # @param received [Polars::Expr] as the database takes it
      def columns(frame, received)
        frame.select([Polars.col("row"), Polars.col("source"), Polars.col("id").alias("key"), Polars.col("type"),
                      Polars.col("signature"), Polars.col("subject"), database_text("occurred").alias("occurred_at"),
                      received.alias("received_at"), Polars.col("data").alias("properties")])
      end

      def database_text(column)
        Polars.col(column).cast(Polars::Datetime.new("us")).dt.strftime("%Y-%m-%d %H:%M:%S%.6f")
      end
    end
  end
end
