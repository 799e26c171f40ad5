# frozen_string_literal: true

module EstrelServer
  # Starts the runs of plans whose time has come. Several may work at once: whoever looks at a plan holds its row.
  #
  # After a downtime a plan whose times were missed runs once, and the run says how many were. The time of the next run
  # is kept, so a clock that is put back starts nothing twice.
  class Scheduler
    PAUSE = 5

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
        ids.filter_map { |id| start(id, now) }
      end
    rescue ActiveRecord::ActiveRecordError, Trilogy::Error, Estrel::Ledger::Missing => e
      warn "the schedule could not be looked at: #{e.class}: #{e.message}"
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
        export.update_columns(next_run_at: time(schedule.next_after(now, calendar)))
        started(export, calendar.day_of(now), missed)
      end
    end

    # A plan whose last run is still under way is left alone this time.
    def started(export, today, missed)
      return if ExportRun.exists?(under_way: export.id)

      note = "#{missed} scheduled #{missed == 1 ? "run was" : "runs were"} missed before this one"
      catalogue = EstrelServer.ledger.current.catalogue
      policy = Asking.policy(LifecyclePolicy.current.rules_json, catalogue, of: LifecyclePolicy.current)
      ExportRun.start(export, as_of: [EstrelServer.ledger.current.newest_day || today, today].min, policy: policy,
                              started_by: "schedule", note: missed.positive? ? note : "")
    end

    def time(instant) = Time.at(instant.div(1_000_000), instant % 1_000_000, :microsecond).utc
  end
end
