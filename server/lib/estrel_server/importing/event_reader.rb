# frozen_string_literal: true

module EstrelServer
  module Importing
    # Turns the values of a row into one event, or says why it cannot be one.
    class EventReader
      MAX_PROPERTIES = 200
      DEFAULT_SOURCE = "import"

      # One event ready to be stored; times as the database takes them.
      #
      # `visitor` is the identifier of the device it came from, where that is not the subject.
      Event = Struct.new(:row, :source, :key, :type, :subject, :occurred_at, :received_at, :properties, :visitor) do
        # @return [String] source and id as one text; neither holds a line end
        def identity = "#{source}\n#{key}"

        # @return [Integer, nil] see {Importing::Device}
        def device = Importing::Device.number(visitor || subject)
      end

      NO_PROPERTIES = "“data” must be an object of names and values"

      # A row that is no event; the message says why.
      class Unusable < Error; end

      # @param mapping [Mapping]
      # @param instants [Instants] reads occurred at
      # @param identifiers [Identifiers]
      # @param received_at [String] for events that carry no time of receipt
      # @param column_types [Hash{String => String}] of CSV columns; empty for JSON, where values have types
      def initialize(mapping:, instants:, identifiers:, received_at:, column_types: {})
        @mapping = mapping
        @instants = instants
        @identifiers = identifiers
        @received_at = received_at
        @column_types = column_types
        @names = %w[id source type subject time received_at].to_h { |ours| [ours, mapping.column(ours)] }
        @identifier_columns = mapping.identifier_columns
        @taken = [*@names.values, *@identifier_columns.values]
        @usable_names = {}
      end

      # @param row [Row]
      # @return [Event]
      # @raise [Unusable, Instants::Unusable, Identifiers::Unusable]
      def read(row)
        raise Unusable, row.fault if row.fault

        json? ? from_json(row) : from_csv(row)
      end

      private

      def json? = @column_types.empty? && !@mapping.flat?

      def from_json(row)
        values = row.values
        version = values["specversion"]
        if version && version != "1.0"
          raise Unusable,
                "only CloudEvents 1.0 can be read, not #{version.to_s[0, 20].inspect}"
        end

        data = values["data"]
        raise Unusable, NO_PROPERTIES unless data.nil? || data.is_a?(Hash)

        event(row, values["id"], @identifiers.read(values[@names["subject"]]), data || {})
      end

      def from_csv(row)
        properties = {}
        values = row.values
        values.each do |column, text|
          next if @taken.include?(column) || (name = @mapping.field(column)).nil?

          value = field(text, column)
          properties[name] = value unless value.nil?
        end
        event(row, values[@names["id"]], subject(values), properties, visitor(values))
      end

      def field(value, column)
        return value unless value.is_a?(String)

        Values.from_text(value, @column_types[column], comma: @mapping.decimal_comma?)
      end

      # Beside another subject; one that cannot be used tells no device.
      def visitor(values)
        value = values[@identifier_columns[Importing::Device::KIND]] or return
        @identifiers.check(Importing::Device::KIND, value)
      rescue Identifiers::Unusable
        nil
      end

      def subject(values)
        @identifier_columns.each do |kind, column|
          return @identifiers.check(kind, values[column]) unless values[column].to_s.empty?
        end
        @identifiers.read(values[@names["subject"]])
      end

      def event(row, id, identifier, properties, visitor = nil)
        values = row.values
        time = values[@names["time"]]
        raise Unusable, "the time is missing" if time.nil? || time == ""

        check_properties(properties)
        properties = EventJson.exact(properties)
        source = @mapping.constants["source"] || values[@names["source"]] || DEFAULT_SOURCE
        type = @mapping.constants["type"] || values[@names["type"]]
        Event.new(row, name(source, "source"), key(id, row), name(type, "type"), identifier,
                  @instants.read(time), received_at(values), properties, visitor)
      end

      # Without an id, equal rows are the same event.
      def key(id, row)
        return Names.checked(id.to_s, "id") unless id.nil? || id == ""

        "row-#{Digest::SHA256.hexdigest(row.original)[0, 40]}"
      end

      # A name that many rows share; what was found usable once is not looked at again.
      def name(text, what)
        @usable_names[text] || begin
          @usable_names.clear if @usable_names.size > 10_000
          @usable_names[text] = Names.checked(text, what)
        end
      end

      def received_at(values)
        time = values[@names["received_at"]] || values["receivedat"]
        time.nil? || time == "" ? @received_at : @instants.read(time)
      end

      def check_properties(properties)
        raise Unusable, "the event has more than #{MAX_PROPERTIES} properties" if properties.size > MAX_PROPERTIES

        properties.each_key { |property| name(property, "name of a property") }
      end
    end
  end
end
