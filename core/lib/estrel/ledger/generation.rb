# frozen_string_literal: true

module Estrel
  class Ledger
    # One complete state of the ledger, opened for reading.
    #
    # Files are memory-mapped: opening costs milliseconds and processes share the pages. A generation that has been
    # replaced stays readable for whoever holds it. Results derived from it are kept in its {#cache}.
    class Generation
      include Readable

      # @return [String] where its files are
      attr_reader :directory
      # @return [String] file name of the manifest
      attr_reader :manifest_name
      # @return [String, nil] manifest of the generation of which this one is the tail, see {WithTail}
      attr_reader :base_name
      # @return [Integer]
      attr_reader :number
      # @return [Catalogue]
      attr_reader :catalogue
      # @return [Calendar]
      attr_reader :calendar
      # @return [Hash] what the builder noted: event count, newest event, newest receipt, high-water mark
      attr_reader :facts
      # @return [ResultCache]
      attr_reader :cache
      # @return [Shelf, nil] what its parts have answered
      attr_reader :shelf

      MANIFEST = /\Ageneration-\d+-\h+\.json\z/ # linear: one run follows the other

      # @param directory [String]
      # @param manifest_name [String]
      # @param shelf [Shelf, nil]
      # @return [Generation]
      # @raise [Damaged] where the manifest cannot be read; the files are not looked at
      def self.open(directory, manifest_name, shelf: nil)
        manifest = JSON.parse(File.read(File.join(directory, manifest_name)))
        form = manifest.fetch("facts")["form"] || Layout::FORM
        raise Damaged, "#{manifest_name} is of form #{form} instead of #{Layout::FORM}" unless form == Layout::FORM

        new(directory, manifest_name, manifest, shelf)
      rescue SystemCallError, JSON::ParserError, KeyError, TypeError, NoMethodError => e
        raise Damaged, "#{manifest_name} cannot be read (#{e.class})"
      end

      # @param path [String] of one of its files
      # @return [Polars::DataFrame] memory-mapped
      def self.mapped(path) = Polars.read_ipc(path, memory_map: true, rechunk: false)

      def initialize(directory, manifest_name, manifest, shelf = nil)
        @directory = directory
        @shelf = shelf
        @manifest_name = manifest_name
        @number = manifest.fetch("generation")
        @catalogue = Catalogue.from_h(manifest.fetch("catalogue"))
        @calendar = Calendar.new(manifest.fetch("time_zone"))
        @facts = manifest.fetch("facts").freeze
        @base_name = manifest["base"]
        @files = manifest.fetch("files").freeze
        @written = manifest.fetch("written", {}).freeze
        @frames = {}
        @mutex = Monitor.new
        @cache = ResultCache.new
      end

      # @return [Polars::DataFrame] one row per profile, sorted by profile_id; see {Layout::PROFILE_COLUMNS}
      def profiles = frame("profiles")

      # @return [Polars::DataFrame] every value an attribute ever had; see {Layout::HISTORY_COLUMNS}
      def attribute_history = frame("attribute_history")

      # @return [Polars::DataFrame] addresses and consents; see {Layout::REACH_COLUMNS}
      def reach = frame("reach")

      # @return [Polars::DataFrame] whose events came from other profiles; see {Layout::ORIGIN_COLUMNS}
      def origins = frame("origins")

      # @return [Polars::DataFrame] events read as another type; see {Layout::RENAMED_COLUMNS}
      def renamed = frame("renamed")

      # @param type [String] name of an event type in the catalogue
      # @return [Polars::DataFrame] its events, sorted by profile and time; see {Layout::EVENT_COLUMNS}
      def events(type) = frame("events/#{@catalogue.event_types.fetch(type).id}")

      # @return [Polars::DataFrame] all events in order; see {Spine}
      def spine = frame("spine")

      # @return [Polars::Series, nil] of a tail: ids of the people about whom its base is out of date
      def touched = base_name && frame("touched")["profile_id"]

      # @return [Integer] the longest gap inside a visit, microseconds
      def visit_gap = @facts.fetch("visit_gap")

      # The attribute as it stands, where that is kept apart.
      #
      # @param name [String] of an attribute in the catalogue
      # @return [Polars::Series, nil] typed, one value per profile
      def current_attribute(name) = profiles[Layout.attribute(name)]

      # @return [Hash{String => String}] logical name to file name
      attr_reader :files
      # @return [Hash{String => Array(Integer, Integer)}] file name to size and checksum, as they were written
      attr_reader :written

      # @return [Array(String, Array)] how another process finds it, see {Ledger#referred}
      def reference = [manifest_name, []]

      # @return [Integer] in how many parts it has to be asked at least, see {Timeline.parts}
      def parts_needed
        oldest, newest = @facts.values_at("oldest_occurred_at", "newest_occurred_at")
        oldest && base_size.positive? ? Timeline.parts(profiles["profile_id"], newest - oldest) : 1
      end

      # The ledger in parts of about as many profiles each, for taking one after the other.
      #
      # @param count [Integer] at least 1
      # @return [Array<Generation, Slice>] the generation itself where one part is asked for
      def parts(count)
        return [self] if count == 1

        @mutex.synchronize { (@parts ||= {})[count] ||= Slice.cut(self, count) }
      end

      # The ledger as it was known at the end of a date: without everything that was received later.
      #
      # @param date [Date]
      # @return [ReceivedBy] the one asked for last is kept
      def received_by(date)
        @mutex.synchronize { @known = ReceivedBy.new(self, date) unless @known&.date == date }
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
          @frames[name] ||= Generation.mapped(File.join(@directory, @files.fetch(name)))
        end
      end
    end
  end
end
