# frozen_string_literal: true

module EstrelServer
  module LedgerBuilding
    # Copies everybody, or a few people with their whole histories, from the store into the files of one generation.
    class Copy
      # @return [Estrel::Catalogue]
      attr_reader :catalogue
      # @return [Polars::DataFrame] values of attributes that were written
      attr_reader :history

      # @param previous [Estrel::Ledger::Readable, nil] what is known already of whom is written
      # @param writer [Estrel::Ledger::Writer]
      # @param dump [Dump]
      # @param beside [Estrel::Ledger::Generation, nil] of which this becomes the tail
      # @param ids [Polars::Series, nil] sorted profile ids of those in the tail
      # @param on_progress [Proc, nil]
      def initialize(previous, writer, dump:, beside: nil, ids: nil, on_progress: nil)
        @previous = previous
        @writer = writer
        @dump = dump
        @beside = beside
        @ids = ids
        @type_map = TypeMap.new
        @files = EventFiles.new(@type_map, previous, ProfileChanges.new(previous), dump, on_progress)
      end

      # @param marks [Hash{String => Integer}] of the store, see {Snapshot}
      # @return [void]
      def write(marks)
        @events = @files.write(@writer, @previous ? @previous.facts.fetch("marks").fetch("events") : 0, marks["events"])
        @catalogue = read_catalogue
        @history = History.new(@catalogue, @dump).read
        @writer.put_attribute_history(@history)
        @writer.put_profiles(profiles)
        @writer.put_reach(Reach.new(@dump).read)
        origins = Origins.new(@dump, Workspace.current.calendar)
        @writer.put_origins(origins.moved)
        @writer.put_renamed(origins.renamed(after: @beside ? @beside.facts.fetch("marks").fetch("events") : 0))
        @writer.put_touched(@beside, @ids) if @beside
      end

      # @return [Hash{Integer => Array<String>}] see {EventFiles#personal}
      def personal = @files.personal

      # @return [Hash{String => Object}] of the whole ledger, see {Estrel::Ledger::Generation#facts}
      def facts
        names = %w[oldest_occurred_at oldest_received_at newest_received_at]
        oldest, oldest_received, received = @beside ? @beside.facts.values_at(*names) : []
        { "event_count" => @catalogue.event_types.values.sum(&:count),
          "oldest_occurred_at" => [oldest, *@events.map(&:oldest)].compact.min, "newest_occurred_at" => newest,
          "newest_received_at" => [received, *@events.map(&:received)].compact.max,
          "oldest_received_at" => [oldest_received, *@events.map(&:first_received)].compact.min,
          "read_as" => @type_map.read_as, "set_aside" => @files.set_aside, **@files.visits }
      end

      private

      def profiles
        found = Profiles.new(@catalogue, @dump).build(@history, @events.map(&:firsts))
        return found unless @beside

        # Identifiers of a kind that none of them has are null; one of a kind that nobody had has no place.
        columns = @beside.profiles.schema.except("first_seen_day")
        throw :no_place if (found.columns - columns.keys).any?
        missing = columns.except(*found.columns).map { |name, dtype| Polars.lit(nil).cast(dtype).alias(name) }
        found.with_columns(missing).select(columns.keys)
      end

      def read_catalogue
        @type_map.catalogue(@events.map do |summary|
          summary.type.dup.tap { |type| type.count = count(summary) }.freeze
        end)
      end

      def count(summary)
        return summary.count unless @beside

        name = summary.type.name
        outdated = Estrel::Ledger::Rows.count(@beside.events(name), @ids)
        @beside.catalogue.event_types.fetch(name).count - outdated + summary.count
      end

      # What has always held is as old as can be, so it tells nothing of when it was heard.
      def newest
        count, known = @beside ? @beside.facts.values_at("event_count", "newest_occurred_at") : [0, nil]
        events = [*(known unless count.zero?), *@events.map(&:newest)].compact.max
        events || [known, @history["occurred_at"].max].compact.max.then { |value| value if value&.positive? }
      end
    end
  end
end
