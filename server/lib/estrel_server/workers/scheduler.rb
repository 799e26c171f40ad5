# frozen_string_literal: true

module EstrelServer
  module Workers
    # Starts the runs of exports, and sends the pages, whose time has come. Several may work at once: whoever looks at
    # one holds its row.
    #
    # After a downtime an export whose times were missed runs once, and the run says how many were. The time of the next
    # run is kept, so a clock that is put back starts nothing twice.
    class Scheduler
      PAUSE = 5
      # The shortest time between two looks at an export that goes by refreshes, microseconds.
      LOOK = 60_000_000

      def initialize
        @looked = {}
        @upkeep = Upkeep.new("schedule")
      end

      # Works until told to stop with SIGTERM.
      #
      # @return [void]
      def run
        EstrelServer.eager_load(interface: false)
        Signal.trap("TERM") { exit }
        loop do
          tick
          sleep(PAUSE)
        end
      end

      # @param now [Integer] microseconds since the epoch
      # @return [Array<ExportRun, PageRun>] what was started
      def tick(now = Process.clock_gettime(Process::CLOCK_REALTIME, :microsecond))
        Record.connection_pool.with_connection do
          started = due(Export, now).filter_map { |id| @upkeep.step("export #{id}") { start(id, now) } }
          started += due(Page, now).filter_map { |id| @upkeep.step("page #{id}") { send_page(id, now) } }
          started + (@upkeep.step("after a refresh") { after_refresh(now) } || [])
        end
      rescue *Database::Store::AWAY => e
        Log.error("the schedule cannot be looked at", e)
        []
      end

      private

      def due(model, now) = model.kept.where("next_run_at <= ?", time(now)).order(:next_run_at).ids

      def start(id, now)
        in_turn(Export, id, now, ->(export) { export.settings.schedule }) do |export, today, missed|
          started(export, today, missed)
        end
      end

      # Times that were missed are made up for by one.
      def send_page(id, now)
        in_turn(Page, id, now, :times.to_proc) do |page, today|
          newest = EstrelServer.ledger.current.newest_day
          PageRun.start(page, as_of: [newest || today, today].min, started_by: "schedule")
        end
      end

      # Holds a row whose time has come, and sets its next one.
      def in_turn(model, id, now, schedule_of)
        model.transaction do
          row = model.kept.lock("FOR UPDATE SKIP LOCKED").find_by(id: id)
          next if row&.next_run_at.nil? || row.next_run_at > time(now)

          schedule = schedule_of.call(row)
          calendar = Workspace.current.calendar
          missed = schedule.times((row.next_run_at.to_r * 1_000_000).to_i, now + 1, calendar) - 1
          at = schedule.next_after(now, calendar)
          row.update_columns(next_run_at: at && time(at))
          yield(row, calendar.day_of(now), missed)
        end
      end

      # An export whose last run is still under way is left alone this time.
      def started(export, today, missed)
        return if ExportRun.exists?(under_way: export.id)

        note = "#{missed} scheduled #{missed == 1 ? "run was" : "runs were"} missed before this one"
        begin_run(export, today, note: missed.positive? ? note : "")
      end

      def begin_run(export, today, note: "")
        generation = EstrelServer.ledger.current
        ExportRun.start(export, as_of: [generation.newest_day || today, today].min, rule_set: rule_set_of(generation),
                                started_by: "schedule", note: note)
      end

      def rule_set_of(generation)
        Answers::Asking.rule_set(RuleSet.current.rules_json, generation.catalogue, of: RuleSet.current)
      end

      # Exports that are carried out when the ledger has been refreshed and others would be exported than last time. At
      # most one look a minute at each.
      def after_refresh(now)
        ledger = EstrelServer.ledger.current_manifest_or_nil or return []
        exports = Export.kept.where("seen_ledger IS NULL OR seen_ledger <> ?", ledger).select do |export|
          export.settings.schedule&.refresh? && now - @looked.fetch(export.id, -LOOK) >= LOOK
        end
        exports.filter_map do |export|
          @looked[export.id] = now
          @upkeep.step("export #{export.id} after a refresh") do
            look_at(export, ledger, Workspace.current.calendar.day_of(now))
          end
        end
      end

      # Who would be exported is computed before the row is locked; where the export is changed meanwhile, it is
      # looked at again later.
      def look_at(export, ledger, today)
        others = others?(export, today)
        Export.transaction do
          row = Export.kept.lock("FOR UPDATE SKIP LOCKED").find_by(id: export.id)
          next if row.nil? || row.seen_ledger == ledger || ExportRun.exists?(under_way: row.id)
          next if row.updated_at != export.updated_at

          run = begin_run(row, today, note: "after a refresh") if others
          row.update_columns(seen_ledger: ledger)
          run
        end
      end

      # Whether others would be exported than last time. An export that cannot be carried out is, so its run says why.
      def others?(export, today)
        generation = EstrelServer.ledger.current
        question = Answers::Question.new(generation, as_of: [generation.newest_day || today, today].min,
                                                     rule_set: rule_set_of(generation), limited: false)
        definition = Answers::Asking.definition(export.version.definition, generation.catalogue)
        preparation = Exporting::Preparation.new(definition, export.settings, question, export: export)
        exported = Estrel::Exports::Waterfall::EXPORTED
        preparation.last_done&.files&.ids(exported)&.to_a != preparation.delivery.waterfall.ids(exported).to_a
      rescue Error, Estrel::Error
        true
      end

      def time(instant) = Time.at(instant.div(1_000_000), instant % 1_000_000, :microsecond).utc
    end
  end
end
