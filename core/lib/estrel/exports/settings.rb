# frozen_string_literal: true

module Estrel
  module Exports
    # What an export is, apart from whose audience and where to: columns, channel, who is excluded, who
    # is in the holdout, all of it or changes only, the form of the file, and when a run waits for a person's word.
    # Frozen.
    class Settings
      MODES = %w[whole changes].freeze
      FORMATS = %w[csv jsonl parquet].freeze
      SEPARATORS = { "comma" => ",", "semicolon" => ";", "tab" => "\t" }.freeze
      ENCODINGS = %w[utf-8 utf-8-bom windows-1252].freeze
      FILE = { "format" => "csv", "separator" => "comma", "encoding" => "utf-8", "neutralise" => true, "gzip" => false,
               "digests" => false }.freeze
      # Lists an export can name at most.
      MAX_LISTS = 20

      # @return [Array<Column>]
      attr_reader :columns
      # @return [String, nil] of {Reach::CHANNELS}
      attr_reader :channel
      # @return [Suppression::Messaged, nil]
      attr_reader :messaged
      # @return [Boolean] whether whom other runs exported by the same channel so lately counts as messaged
      attr_reader :runs_count
      # @return [Array<Integer>] numbers of the lists whose addresses are not contacted
      attr_reader :lists
      # @return [Integer, nil] number of the holdout
      attr_reader :holdout
      # @return [String] of {MODES}
      attr_reader :mode
      # @return [Hash{String => Object}] as {FILE}
      attr_reader :file
      # @return [Float, nil] the change of the number exported since the last run, as a share, above which a run
      #   waits
      attr_reader :guard
      # @return [Schedule, nil] nil for runs by hand only
      attr_reader :schedule

      # @param json [Hash]
      # @return [Settings]
      # @raise [Invalid]
      def self.parse(json)
        raise Invalid, "the settings of an export must be an object" unless json.is_a?(Hash)

        unknown = json.keys - %w[columns channel messaged lists holdout mode file guard schedule]
        raise Invalid, "an export has no setting \"#{unknown.first}\"" if unknown.any?

        new(json)
      end

      def initialize(json)
        raise Invalid, "the columns must be a list" unless json["columns"].is_a?(Array)

        @columns = json["columns"].map { |column| Column.parse(column) }.freeze
        @channel = json["channel"]
        @messaged = read_messaged(json["messaged"])
        @lists = numbers(json["lists"] || [])
        @holdout = json["holdout"]
        @mode = json.fetch("mode", "whole")
        @file = FILE.merge(json["file"].is_a?(Hash) ? json["file"] : {}).freeze
        @guard = json["guard"]
        @schedule = json["schedule"] && Schedule.new(json["schedule"])
        check
        freeze
      end

      # @param lists [Array<Suppression::List>] those named
      # @param exported [Array<Integer>] whom other runs messaged too recently
      # @return [Suppression]
      # @raise [Invalid]
      def suppression(lists: [], exported: [])
        Suppression.new(channel: channel, messaged: messaged, lists: lists, exported: exported)
      end

      # @param before [Integer] people exported last time
      # @param now [Integer] people who would be exported
      # @return [Boolean] whether they differ by more than the guard allows, so that a person is asked
      def wait?(before, now) = !guard.nil? && (now - before).abs > guard * before

      # @return [Hash] plain JSON
      def to_h
        rule = messaged && { "events" => messaged.events, "days" => messaged.days, "runs" => runs_count }
        { "columns" => columns.map(&:to_h), "channel" => channel, "messaged" => rule, "lists" => lists,
          "holdout" => holdout, "mode" => mode, "file" => file, "guard" => guard,
          "schedule" => schedule&.to_h }
      end

      private

      def read_messaged(json)
        return if json.nil?

        events = json.is_a?(Hash) ? json["events"] : nil
        unless events.is_a?(Array) && events.all?(String)
          raise Invalid, "\"messaged too recently\" needs the names of its event types and a number of days"
        end

        @runs_count = json["runs"] == true
        raise Invalid, "choose the message event types" if events.empty? && !@runs_count

        Suppression::Messaged.new(events: events.uniq.sort, days: json["days"])
      end

      def numbers(list)
        return list.uniq.freeze if list.is_a?(Array) && list.size <= MAX_LISTS && list.all?(Integer)

        raise Invalid, "choose at most #{MAX_LISTS} lists"
      end

      def check
        suppression
        one_of("mode", mode, MODES)
        raise Invalid, "the holdout must be named by its number" unless holdout.nil? || holdout.is_a?(Integer)
        unless guard.nil? || (guard.is_a?(Numeric) && guard.positive?)
          raise Invalid,
                "the change that requires approval must be more than 0%"
        end

        check_file
      end

      def check_file
        unknown = file.keys - FILE.keys
        raise Invalid, "a file has no setting \"#{unknown.first}\"" if unknown.any?

        one_of("format", file["format"], FORMATS)
        one_of("separator", file["separator"], SEPARATORS.keys)
        one_of("encoding", file["encoding"], ENCODINGS)
        %w[neutralise gzip digests].each { |name| one_of(name, file[name], [true, false]) }
      end

      def one_of(name, value, allowed)
        return if allowed.include?(value)

        raise Invalid, "the #{name} must be one of #{allowed.join(", ")}, not #{value.inspect}"
      end
    end
  end
end
