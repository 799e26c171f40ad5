# frozen_string_literal: true

module EstrelServer
  module LedgerBuilding
    # Copies the store into the ledger: everything at first, afterwards only what has changed since.
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
          @previous = rebuild ? nil : previous
          Snapshot.open do |marks|
            @marks = marks
            writer = Estrel::Ledger::Writer.new(@ledger.directory, calendar: Workspace.current.calendar,
                                                                   carry_over: @previous)
            write(writer)
          rescue StandardError
            writer&.abandon
            raise
          end
        end
      end

      # @return [Boolean] whether the store holds anything the ledger does not, or the ledger is damaged
      def behind?
        return true unless @ledger.intact?

        found = previous
        found.nil? || found.facts["marks"] != Snapshot.marks ||
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

      def write(writer)
        type_map = TypeMap.new
        dump = Dump.new(@settings.exchange_directory)
        changes = ProfileChanges.new(@previous)
        from = @previous ? @previous.facts.fetch("marks").fetch("events") : 0
        files = EventFiles.new(type_map, @previous, changes, dump, @on_progress)
        events = files.write(writer, from, @marks["events"])
        catalogue = catalogue(events)
        history = History.new(catalogue, dump).read
        writer.put_attribute_history(history)
        writer.put_profiles(Profiles.new(catalogue, dump).build(history, events.map(&:firsts)))
        writer.put_reach(Reach.new(dump).read)
        origins = Origins.new(dump, Workspace.current.calendar)
        writer.put_origins(origins.moved)
        writer.put_renamed(origins.renamed)
        suggest_personal(files.personal, history)
        facts = facts(events, history).merge("read_as" => type_map.read_as, "set_aside" => files.set_aside,
                                             **files.visits)
        writer.commit(catalogue: catalogue, facts: facts)
        facts
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

      def catalogue(events)
        types = events.map { |summary| summary.type.dup.tap { |type| type.count = summary.count }.freeze }
        attributes = AttributeDefinition.order(:name).map do |row|
          Estrel::Catalogue::Field.new(name: row.name, type: row.value_type, mixed: row.mixed, **row.shown).freeze
        end
        Estrel::Catalogue.new(event_types: types, attributes: attributes, aliases: EventType.aliases,
                              sources: Source.pluck(:id, :name).to_h, messaging: Workspace.current.messages)
      end

      # What has always held is as old as can be, so it tells nothing of when it was heard.
      def newest_value(history) = history["occurred_at"].max.then { |newest| newest if newest&.positive? }

      def facts(events, history)
        { "marks" => @marks, "store" => Workspace.current.store_id, "form" => Estrel::Ledger::Layout::FORM,
          "built_at" => Time.now.utc.iso8601,
          "event_count" => events.sum(&:count), "oldest_occurred_at" => events.filter_map(&:oldest).min,
          "newest_occurred_at" => events.filter_map(&:newest).max || newest_value(history),
          "newest_received_at" => events.filter_map(&:received).max,
          "oldest_received_at" => events.filter_map(&:first_received).min }
      end
    end
  end
end
