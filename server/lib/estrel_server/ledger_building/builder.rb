# frozen_string_literal: true

module EstrelServer
  module LedgerBuilding
    # Copies the store into the ledger: everything at first, afterwards the histories of those about whom something has
    # come, into a tail; and everything again when these have become many (see {Touched}), which for a large ledger
    # another process does meanwhile ({#prepare}).
    #
    # One builder at a time (see {Turn}), reading from one snapshot of the store; readers keep the generation
    # they have until the new one is complete.
    class Builder
      BUILDING = "building"
      PREPARING = "preparing"
      # Seconds for which another that builds it is waited for.
      PATIENCE = 3600
      # Seconds that another machine has for taking a generation from here.
      TAKING = 60
      EVERYBODY = Estrel::Ledger::Layout::EVERYBODY
      private_constant :PATIENCE, :TAKING, :EVERYBODY

      # @param ledger [Estrel::Ledger]
      # @param settings [Settings]
      # @yieldparam message [String] what is being done, for showing progress
      def initialize(ledger = EstrelServer.ledger, settings = EstrelServer.settings, &on_progress)
        @ledger = ledger
        @settings = settings
        @on_progress = on_progress
        @leading = Parts::Leading.new(settings) unless settings.nats_urls.empty?
      end

      # Brings the ledger up to date with the store; where another machine builds it, waits until it has arrived.
      #
      # @param rebuild [Boolean] start from nothing
      # @return [Hash] the new generation's facts
      # @raise [Disk::Full]
      def refresh(rebuild: false)
        return build(rebuild: rebuild) if @leading.nil?

        @leading.lead { build(rebuild: rebuild) }
      rescue Database::Lease::Busy
        @leading.here? ? build(rebuild: rebuild) : @leading.arrived(@ledger) { |generation| built_of_this?(generation) }
      end

      # The same, on this machine, whichever is to build it.
      #
      # @param rebuild [Boolean] start from nothing
      # @return [Hash] the new generation's facts
      # @raise [Disk::Full]
      def build(rebuild: false)
        alone do
          Disk.check(@settings.var)
          facts, seconds = Figures.timed { written(rebuild ? nil : previous) }
          Figures.time(:refresh_seconds, seconds)
          Log.info("ledger refreshed", seconds: seconds.round(3), events: facts["event_count"])
          facts
        end
      end

      # @return [Boolean] whether what {#refresh} wrote last is so long a tail that a new base should be prepared
      def long? = @long == true && @ledger.prepared.nil?

      # Writes a new base beside whatever is refreshed meanwhile; the next refresh takes it up. Does nothing where
      # another process is at it.
      #
      # @return [void]
      def prepare
        Turn.new(@ledger.directory, PREPARING).take do
          seen { write_everybody(base_of(previous), prepares: true) }
        end
      rescue Turn::Taken
        nil
      end

      # @return [Boolean] whether the store holds anything the ledger does not, or the ledger is damaged
      def behind?
        return true if !@ledger.intact? || @ledger.prepared

        found = previous
        found.nil? || found.facts["marks"] != Snapshot.marks || !as_set?(found)
      end

      private

      def as_set?(generation)
        workspace = Workspace.current
        generation.calendar.time_zone == workspace.time_zone && generation.visit_gap == workspace.visit_gap
      end

      def built_of_this?(generation)
        generation.facts.slice("store", "form") == this_store && as_set?(generation)
      end

      def this_store = { "store" => Workspace.current.store_id, "form" => Estrel::Ledger::Layout::FORM }

      def written(built_on)
        prepared = @ledger.prepared
        seen { (built_on && renewed(prepared, built_on)) || write_whole(base_of(built_on)) }
          .tap { @ledger.forget(prepared) if prepared }
      end

      def alone(&)
        Turn.new(@ledger.directory, BUILDING).take(wait: PATIENCE, &)
      rescue Turn::Taken
        raise Error, "another process has been building the ledger for an hour"
      end

      # The generation to build on. None when the ledger's files are damaged, of an older form, or of another store.
      def previous
        generation = @ledger.current
        generation if generation.facts.slice("store", "form") == this_store
      rescue Estrel::Ledger::Missing, SystemCallError, JSON::ParserError, KeyError
        nil
      end

      # Reads the store as it stands now.
      def seen
        @read_at = Time.now.utc.iso8601(6)
        Snapshot.open do |marks, attribute_changes|
          @marks = marks
          @attribute_changes = attribute_changes
          yield
        end
      end

      def base_of(ledger) = ledger.is_a?(Estrel::Ledger::WithTail) ? ledger.base : ledger

      # @return [Hash, nil] facts of a tail to the base that was prepared, or else to the one there is; nil where there
      #   can be none
      def renewed(prepared, there)
        [*(prepared if prepared && newer?(prepared, base_of(there))), there].each do |built_on|
          facts = tail_of(built_on) and return facts
        end
        nil
      end

      def tail_of(built_on)
        touched = Touched.new(built_on, @marks)
        return if touched.ids.nil?

        shared(touched.base.pieces.size, touched.events >= PieceProcesses::WORTH_FOR_TAIL) do |processes|
          touched = Touched.new(built_on, @marks) if processes
          touched.ids && write_tail(built_on, touched, processes)
        end
      end

      # Changes are noted from the base on that there is.
      def newer?(prepared, base)
        marks = [prepared, base].map { |one| [one.facts["marks"]["events"], one.facts["attribute_changes"].to_i] }
        marks.transpose.all? { |at, before| at >= before }
      end

      # What is there of the last ledger of everybody is built on.
      def write_whole(base)
        write_everybody(base).tap do
          @long = false
          told(@attribute_changes)
        end
      end

      def write_everybody(base, **how)
        pieces = Pieces.new(base, @marks, @settings)
        ranges = pieces.ranges
        shared(ranges.size, pieces.events >= PieceProcesses::WORTH) do |processes|
          write(Known.new(base), carry_over: base, ranges: ranges, processes: processes, **how)
        end
      end

      # Where it is much that is written, other processes do it, which give back their memory when they end; then as the
      # store stands when all of them have begun.
      def shared(pieces, much)
        return yield unless much

        here = [pieces, @settings.answering_processes].min
        PieceProcesses.during(here, pieces - here, @settings) do |processes|
          processes.agree { open_again }
          yield processes
        end
      end

      def open_again
        @read_at = Time.now.utc.iso8601(6)
        @marks, @attribute_changes = Snapshot.begin
        @marks
      end

      # In the pieces of its base, where other processes write it.
      #
      # @return [Hash, nil] nil where they hold something for which the base has no place
      def write_tail(built_on, touched, processes)
        base = touched.base
        ranges = processes ? base.manifest.pieces.map(&:range) : [EVERYBODY]
        known = Known.new(built_on, touched.ids)
        facts = catch(:no_place) { write(known, beside: base, ranges: ranges, processes: processes) } or return
        told(base.facts["attribute_changes"])
        @long = touched.long?
        facts
      end

      # Seconds for which a generation may be read, or taken, after another has replaced it.
      def kept = [@settings.question_seconds, *(TAKING if @leading)].max

      # The attribute changes that the base holds are told.
      def told(attribute_changes) = AttributeChange.where("id <= ?", attribute_changes).delete_all

      def write(known, ranges:, processes:, carry_over: nil, beside: nil, prepares: false)
        writer = Estrel::Ledger::Writer.new(@ledger.directory, calendar: Workspace.current.calendar,
                                                               carry_over: carry_over, prepares: prepares,
                                                               kept: kept)
        copied = Copy.new(known, writer, dump: Dump.new(@settings, known.ids), ranges: ranges, beside: beside,
                                         processes: processes, on_progress: @on_progress)
        copied.write(@marks)
        suggest_personal(copied.personal, copied.personal_attributes)
        facts = { "marks" => @marks, "attribute_changes" => attribute_changes(known.all), **this_store,
                  "read_at" => @read_at, "built_at" => Time.now.utc.iso8601, **copied.facts }
        writer.commit(catalogue: copied.catalogue, facts: facts)
        committed = facts
      ensure
        writer&.abandon unless committed
      end

      # Those told before are there no more, so the highest number there is may be lower.
      def attribute_changes(previous) = [@attribute_changes, *previous&.facts&.fetch("attribute_changes", nil)].max

      # On a connection of its own, and at once: whoever imports waits for these rows.
      def suggest_personal(properties, attributes)
        Workspaces.thread(told: true) do
          Record.connection_pool.with_connection do
            properties.each do |type, names|
              EventProperty.where(event_type_id: type, name: names,
                                  personal_suggested: false).update_all(personal_suggested: true)
            end
            AttributeDefinition.where(name: attributes, personal_suggested: false).update_all(personal_suggested: true)
          end
        end.join
      end
    end
  end
end
