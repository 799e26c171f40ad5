# frozen_string_literal: true

module EstrelServer
  module Figures
    # What Prometheus reads, at /metrics, with a token of an account (`authorization: {type: Bearer, …}`) whose scope is
    # "read". What is so at the moment is looked up when it asks.
    class Page
      KINDS = %w[web questions answers collector ledger imports exports schedule].freeze
      QUEUES = %w[imports exports].freeze
      private_constant :KINDS, :QUEUES

      # @param health [Health]
      # @param settings [Settings]
      def initialize(health, settings)
        @health = health
        @settings = settings
      end

      # @param env [Hash] the Rack environment
      # @return [Array] status, headers, body
      def call(env)
        return API::Problems.response(405, "only GET is answered here") unless env["REQUEST_METHOD"] == "GET"
        return API::Problems.response(401, "show a token that may read") unless known?(env)

        look
        [200, { "content-type" => "text/plain; version=0.0.4", "cache-control" => "no-store" }, [Figures.text]]
      end

      private

      def known?(env)
        token = env["HTTP_AUTHORIZATION"].to_s[/\ABearer (.+)\z/, 1]
        # They are about all workspaces.
        return false unless token && Workspaces.current.first?

        Record.connection_pool.with_connection { !ApiToken.of(token).nil? }
      rescue *Database::Store::AWAY
        false
      end

      def look
        @health.checks.each { |check| Figures.set(:up, check.ok ? 1 : 0, { check: check.name }) }
        ledgers(Workspaces.each_open { ledger }.compact)
        queues(Workspaces.each_open { Record.connection_pool.with_connection { waiting } })
        processes
        elsewhere = Parts::Elsewhere.of(@settings)
        Figures.set(:part_holders, elsewhere.size) if elsewhere
        Figures.set(:disk_free_bytes, Disk.free(@settings.var))
      end

      # Age in seconds, events and profiles.
      def ledger
        generation = EstrelServer.ledger.current
        facts = generation.facts
        [(Time.now - Time.iso8601(facts["built_at"])).round(1), facts["event_count"], generation.base_size]
      rescue Estrel::Ledger::Missing
        nil # nothing has been built yet
      end

      # Of all workspaces together, and of the one that is furthest behind.
      def ledgers(found)
        return if found.empty?

        ages, events, profiles = found.transpose
        Figures.set(:ledger_age_seconds, [ages.max, 0].max)
        Figures.set(:ledger_events, events.sum)
        Figures.set(:ledger_profiles, profiles.sum)
      end

      # By queue, how many jobs wait and since when the oldest does.
      def waiting
        QUEUES.map do |queue|
          waiting = Delayed::Job.where(queue: queue, locked_at: nil, failed_at: nil, run_at: ..Time.now.utc)
          [waiting.count, waiting.minimum(:run_at)]
        end
      end

      def queues(found)
        QUEUES.zip(found.transpose) do |queue, all|
          oldest = all.filter_map(&:last).min
          Figures.set(:jobs_waiting, all.sum(&:first), { queue: queue })
          Figures.set(:jobs_oldest_seconds, oldest ? (Time.now.utc - oldest).round(1) : 0, { queue: queue })
        end
      end

      def processes
        found = Figures.processes
        KINDS.each do |kind|
          held = found.fetch(kind, []).filter_map { |pid| resident(pid) }
          Figures.set(:processes, held.size, { process: kind })
          Figures.set(:memory_bytes, held.sum, { process: kind })
        end
      end

      # Of one that has ended, nil. What it shares with others, as mapped files, is not counted.
      def resident(pid)
        status = File.read("/proc/#{pid}/status")
        status[/^RssAnon:\s+(\d+) kB/, 1].to_i * 1024 # linear: one line
      rescue SystemCallError
        nil
      end
    end
  end
end
