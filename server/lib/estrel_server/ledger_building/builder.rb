# frozen_string_literal: true

module EstrelServer
  module LedgerBuilding
    # Copies the store into the ledger: everything at first, afterwards the histories of those about whom something has
    # come, into a tail; and everything again when these have become many (see {Touched}).
    #
    # One builder at a time, by a database lock, reading from one snapshot of the store; readers keep the generation
    # they have until the new one is complete.
    class Builder
      LOCK = "ledger build"
      # Seconds for which another that builds it is waited for.
      PATIENCE = 3600
      private_constant :PATIENCE

      # @param ledger [Estrel::Ledger]
      # @param settings [Settings]
      # @yieldparam message [String] what is being done, for showing progress
      def initialize(ledger = EstrelServer.ledger, settings = EstrelServer.settings, &on_progress)
        @ledger = ledger
        @settings = settings
        @on_progress = on_progress
      end

      # Brings the ledger up to date with the store.
      #
      # @param rebuild [Boolean] start from nothing
      # @return [Hash] the new generation's facts
      def refresh(rebuild: false)
        alone do
          built_on = rebuild ? nil : previous
          Snapshot.open do |marks, attribute_changes|
            @marks = marks
            @attribute_changes = attribute_changes
            touched = built_on && Touched.new(built_on, marks)
            ids = touched&.ids
            (ids && write_tail(built_on, touched.base, ids)) || write_whole(touched&.base)
          end
        end
      end

      # @return [Boolean] whether the store holds anything the ledger does not, or the ledger is damaged
      def behind?
        return true unless @ledger.intact?

        found = previous
        found.nil? || found.facts["marks"].except("attribute_changes") != Snapshot.marks ||
          found.calendar.time_zone != Workspace.current.time_zone || found.visit_gap != Workspace.current.visit_gap
      end

      private

      def alone(&)
        Database::AdvisoryLock.new(LOCK).hold(wait: PATIENCE, &)
      rescue Database::AdvisoryLock::Busy
        raise Error, "another process has been building the ledger for an hour"
      end

      # The generation to build on. None when the ledger's files are damaged, of an older form, or of another store.
      def previous
        generation = @ledger.current
        wanted = { "store" => Workspace.current.store_id, "form" => Estrel::Ledger::Layout::FORM }
        generation if generation.facts.slice(*wanted.keys) == wanted
      rescue Estrel::Ledger::Missing, SystemCallError, JSON::ParserError, KeyError
        nil
      end

      # What is there of the last ledger of everybody is built on.
      def write_whole(base)
        facts = write(base, carry_over: base)
        # What they tell of is in it. Whoever reads the store now does so from a snapshot.
        AttributeChange.where("id <= ?", @attribute_changes).delete_all
        facts
      end

      # @return [Hash, nil] nil where they hold something for which the base has no place
      def write_tail(previous, base, ids)
        catch(:no_place) { write(previous.picked(ids), beside: base, ids: ids) }
      end

      def write(previous, carry_over: nil, beside: nil, ids: nil)
        writer = Estrel::Ledger::Writer.new(@ledger.directory, calendar: Workspace.current.calendar,
                                                               carry_over: carry_over)
        copied = Copy.new(previous, writer, dump: Dump.new(@settings.exchange_directory, ids), beside: beside, ids: ids,
                                            on_progress: @on_progress)
        copied.write(@marks)
        suggest_personal(copied.personal, copied.history)
        facts = { "marks" => @marks.merge("attribute_changes" => @attribute_changes),
                  "store" => Workspace.current.store_id, "form" => Estrel::Ledger::Layout::FORM,
                  "built_at" => Time.now.utc.iso8601, **copied.facts }
        writer.commit(catalogue: copied.catalogue, facts: facts)
        committed = facts
      ensure
        writer&.abandon unless committed
      end

      # On a connection of its own, and at once: whoever imports waits for these rows.
      def suggest_personal(properties, history)
        looks = history.filter(Polars.col("value").str.contains(Access::PersonalData::CONTENT))["attribute"].unique.to_a
        Thread.new do
          Record.connection_pool.with_connection do
            properties.each do |type, names|
              EventProperty.where(event_type_id: type, name: names,
                                  personal_suggested: false).update_all(personal_suggested: true)
            end
            AttributeDefinition.where(name: looks, personal_suggested: false).update_all(personal_suggested: true)
          end
        end.join
      end
    end
  end
end
