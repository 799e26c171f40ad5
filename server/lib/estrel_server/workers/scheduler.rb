# frozen_string_literal: true

module EstrelServer
  module Workers
    # Starts the runs of plans whose time has come. Several may work at once: whoever looks at a plan holds its row.
    #
    # After a downtime a plan whose times were missed runs once, and the run says how many were. The time of the next
    # run is kept, so a clock that is put back starts nothing twice.
    class Scheduler
      PAUSE = 5
      # The shortest time between two looks at a plan that goes by refreshes, microseconds.
      LOOK = 60_000_000

      def initialize
        @looked = {}
        @upkeep = Upkeep.new("schedule")
      end

      # Works until told to stop with SIGTERM.
      #
      # @return [void]
      def run
        EstrelServer.eager_load
        Signal.trap("TERM") { exit }
        loop do
          tick
          sleep(PAUSE)
        end
      end

      # @param now [Integer] microseconds since the epoch
      # @return [Array<ExportRun>] what was started
      def tick(now = Process.clock_gettime(Process::CLOCK_REALTIME, :microsecond))
        Record.connection_pool.with_connection do
          ids = Export.kept.where("next_run_at <= ?", time(now)).order(:next_run_at).ids
          started = ids.filter_map { |id| @upkeep.step("export #{id}") { start(id, now) } }
          started + (@upkeep.step("after a refresh") { after_refresh(now) } || [])
        end
      rescue *Database::Store::AWAY => e
        warn "the schedule cannot be looked at: #{e.message}"
        []
      end

      private

      def start(id, now)
        Export.transaction do
          export = Export.kept.lock("FOR UPDATE SKIP LOCKED").find_by(id: id)
          next if export&.next_run_at.nil? || export.next_run_at > time(now)

          schedule = export.plan.schedule
          calendar = Workspace.current.calendar
          missed = schedule.times((export.next_run_at.to_r * 1_000_000).to_i, now + 1, calendar) - 1
          at = schedule.next_after(now, calendar)
          export.update_columns(next_run_at: at && time(at))
          started(export, calendar.day_of(now), missed)
        end
      end

      # A plan whose last run is still under way is left alone this time.
      def started(export, today, missed)
        return if ExportRun.exists?(under_way: export.id)

        note = "#{missed} scheduled #{missed == 1 ? "run was" : "runs were"} missed before this one"
        begin_run(export, today, note: missed.positive? ? note : "")
      end

      def begin_run(export, today, note: "")
        generation = EstrelServer.ledger.current
        ExportRun.start(export, as_of: [generation.newest_day || today, today].min, policy: policy_of(generation),
                                started_by: "schedule", note: note)
      end

      def policy_of(generation)
        Answers::Asking.policy(LifecyclePolicy.current.rules_json, generation.catalogue, of: LifecyclePolicy.current)
      end

      # Plans that are carried out when the ledger has been refreshed and others would be handed over than last time. At
      # most one look a minute at each.
      def after_refresh(now)
        ledger = EstrelServer.ledger.current_manifest_or_nil or return []
        plans = Export.kept.where("seen_ledger IS NULL OR seen_ledger <> ?", ledger).select do |export|
          export.plan.schedule&.refresh? && now - @looked.fetch(export.id, -LOOK) >= LOOK
        end
        plans.filter_map do |export|
          @looked[export.id] = now
          @upkeep.step("export #{export.id} after a refresh") do
            look_at(export, ledger, Workspace.current.calendar.day_of(now))
          end
        end
      end

      def look_at(export, ledger, today)
        Export.transaction do
          row = Export.kept.lock("FOR UPDATE SKIP LOCKED").find_by(id: export.id)
          next if row.nil? || row.seen_ledger == ledger || ExportRun.exists?(under_way: row.id)

          run = begin_run(row, today, note: "after a refresh") if others?(row, today)
          row.update_columns(seen_ledger: ledger)
          run
        end
      end

      # Whether others would be handed over than last time. A plan that cannot be carried out is, so its run says why.
      def others?(export, today)
        generation = EstrelServer.ledger.current
        question = Answers::Question.new(generation, as_of: [generation.newest_day || today, today].min,
                                                     policy: policy_of(generation), limited: false)
        definition = Answers::Asking.definition(export.version.definition, generation.catalogue)
        preparation = Exporting::Preparation.new(definition, export.plan, question, export: export)
        handed_over = Estrel::Handover::Waterfall::HANDED_OVER
        preparation.last_done&.files&.ids(handed_over)&.to_a != preparation.delivery.waterfall.ids(handed_over).to_a
      rescue Error, Estrel::Error
        true
      end

      def time(instant) = Time.at(instant.div(1_000_000), instant % 1_000_000, :microsecond).utc
    end
  end
end
