# frozen_string_literal: true

module EstrelServer
  # Tells whoever watches over the processes whether this one lives, and whether all that it needs does its work: the
  # database answers, the ledger follows it, background jobs are taken up, the disk has room. Names no path, no host and
  # nobody, since anybody may ask.
  class Health
    # Seconds after which a ledger with something to take in has fallen behind.
    LEDGER_SECONDS = 120
    # Seconds after which a job that waits shows that nobody takes it up.
    JOB_SECONDS = 600
    # What was looked at, whether it is well, and in words what is so.
    Check = Struct.new(:name, :ok, :said)
    GONE = [ActiveRecord::ActiveRecordError, Trilogy::Error].freeze
    private_constant :Check, :GONE

    # @param var [String] the directory of everything that is kept on disk
    def initialize(var)
      @var = var
    end

    # @param env [Hash] the Rack environment
    # @return [Array] status, headers, body
    def call(env)
      return API::Problems.response(405, "only GET is answered here") unless %w[GET
                                                                                HEAD].include?(env["REQUEST_METHOD"])

      case env["PATH_INFO"]
      when "/health/live" then answer(200, { live: true })
      when "/health/ready" then told(checks)
      else API::Problems.response(404, "there is nothing under this address")
      end
    end

    # @return [Array<Check>] what was looked at just now; less, where the database is gone
    def checks
      all = Workspaces.each_open { Record.connection_pool.with_connection { [ledger, jobs] } }
      [database, *all.transpose.map { |found| worst(found) }, disk]
    rescue *GONE
      [Check.new("database", false, "the database does not answer"), disk]
    end

    private

    def told(checks)
      well = checks.all?(&:ok)
      answer(well ? 200 : 503, { ready: well, checks: checks.map(&:to_h) })
    end

    # Of the workspaces, the first that is not well; which one it is, is nobody's business.
    def worst(found)
      bad = found.find { |check| !check.ok } or return found.first
      found.one? ? bad : bad.dup.tap { |check| check.said = "in one of #{found.size} workspaces: #{bad.said}" }
    end

    def database
      Record.connection_pool.with_connection { |connection| connection.select_value("SELECT 1") }
      Check.new("database", true, "it answers")
    end

    def ledger
      return Check.new("ledger", !Profile.exists?, "nothing has been built yet") unless EstrelServer.ledger.any?

      facts = EstrelServer.ledger.current.facts
      seconds = (Time.now - Time.iso8601(facts["built_at"])).to_i.clamp(0..)
      return Check.new("ledger", true, "up to date") if
        facts["marks"] == LedgerBuilding::Snapshot.marks

      Check.new("ledger", seconds <= LEDGER_SECONDS, "behind by #{passed(seconds)}")
    end

    def jobs
      waiting = Delayed::Job.where(locked_at: nil, failed_at: nil, run_at: ..Time.now.utc)
      oldest = waiting.minimum(:run_at)
      return Check.new("jobs", true, "none waits") unless oldest

      seconds = (Time.now - oldest).to_i.clamp(0..)
      Check.new("jobs", seconds <= JOB_SECONDS, "#{waiting.count} wait, the oldest since #{passed(seconds)}")
    end

    def disk
      free = Disk.free(@var)
      Check.new("disk", free >= Disk::RESERVE, "#{Estrel::English.number(free >> 20)} MB are free")
    end

    def passed(seconds) = Estrel::English.duration(seconds)

    def answer(status, body)
      [status, { "content-type" => "application/json", "cache-control" => "no-store" }, [JSON.generate(body)]]
    end
  end
end
