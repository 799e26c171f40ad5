# frozen_string_literal: true

module EstrelServer
  module Workers
    # Keeps the ledger up to date: looks every moment whether the store has anything new, and refreshes.
    #
    # Under steady load it spends at most half of its time refreshing, so that a large ledger is not written without
    # end; time in which it only waits, as for a database that has lost a server, does not count. Where what has come
    # lately has grown long, it has another process prepare a new base meanwhile. Also asks the alert rules, clears away
    # what is kept for a few days only, and packs what came long ago.
    #
    # Of several machines one does all this, see {Parts::Leading}; the others take the ledger from it, and clear away
    # what is kept on them. One that is cut off from it builds the ledger by itself for a while.
    class LedgerFollower
      PAUSE = 0.5
      ESTREL = File.expand_path("../../../../bin/estrel", __dir__)
      CLEAR_EVERY = 3600
      WATCH_EVERY = 60
      # Seconds for which nothing has to arrive from another machine before this one builds, and for which it then does
      # so; and in which a generation has to arrive.
      UNHEARD = 5
      ALONE = 10

      # @param builder [LedgerBuilding::Builder]
      # @param settings [Settings]
      def initialize(builder = LedgerBuilding::Builder.new, settings = EstrelServer.settings)
        @builder = builder
        @settings = settings
        @upkeep = Upkeep.new("ledger")
        @alerts = Upkeep.new("alerts")
        @workspaces = Workspaces::Keeper.new
        @cleared_at = nil
      end

      # Works until told to stop with SIGTERM.
      #
      # @return [void]
      def run
        EstrelServer.eager_load(interface: false)
        Signal.trap("TERM") { exit }
        Thread.new { read_ahead }
        network = Parts::Network.of(@settings)
        network ? lead_or_follow(network) : loop { sleep(step) }
      end

      # Does what there is to do. A part of it that fails is tried again later and holds nothing else up.
      #
      # @return [Float] seconds to pause
      def step
        started = [now, worked]
        Database::OnceHeard.within(Record) { take_steps }
        took, work = [now, worked].zip(started).map { |after, before| after - before }
        (2 * work).clamp(PAUSE, [took, PAUSE].max)
      rescue *Database::Store::AWAY => e
        Log.error("the ledger cannot be followed", e)
        2 * PAUSE
      end

      private

      def take_steps
        @upkeep.step("clearing") { clear_old }
        @upkeep.step("removing old events") { remove_old_events }
        @upkeep.step("packing") { pack }
        @upkeep.step("refresh") { @builder.refresh if @builder.behind? }
        @upkeep.step("preparing") { prepare if @builder.long? }
        @upkeep.step("alerts") { alert_rule }
        @upkeep.step("workspaces") { @workspaces.step } if Workspaces.own.first?
      end

      def lead_or_follow(network)
        leading = Parts::Leading.new(@settings)
        publisher = Parts::Publisher.new(network, @settings)
        mirror = Parts::Mirror.new(network, @settings, seconds: ALONE)
        Parts::Lender.new(network, @settings).lend if Workspaces.own.first?
        @heard = now
        @alone_until = 0.0
        loop do
          leading.lead { |lease| publisher.publish { lead(lease) } }
        rescue Database::Lease::Busy, Database::Lease::Lost, *Database::Store::AWAY
          take_from(mirror)
        end
      end

      # The lease outlives a database that is away for a moment.
      def lead(lease)
        Log.info("this machine builds the ledger")
        loop do
          lease.check
          @heard = now
          sleep(step)
        rescue *Database::Store::AWAY
          raise if now - @heard > Database::Lease::SECONDS

          sleep(PAUSE)
        end
      end

      def take_from(mirror)
        listen_to(mirror) unless now < @alone_until
        Database::OnceHeard.within(Record) do
          @upkeep.step("refresh") { @builder.build if @builder.behind? } if now < @alone_until
          @upkeep.step("clearing") { clear_old }
        end
      rescue *Database::Store::AWAY
        nil # it is needed by whoever builds
      ensure
        sleep(PAUSE)
      end

      def listen_to(mirror)
        return @heard = now if @upkeep.step("taking the ledger") { mirror.step }

        @alone_until = now + ALONE if now - @heard > UNHEARD
      end

      def read_ahead
        ledger = EstrelServer.ledger
        Estrel::Ledger::Prefetch.new(ledger.directory, ledger.current.written).run
      rescue Estrel::Ledger::Missing
        nil # nothing has been built yet
      end

      # One process at a time, which gives back its memory when it is done.
      def prepare
        _, status = @preparing && Process.wait2(@preparing, Process::WNOHANG)
        return if @preparing && status.nil?

        @preparing = nil
        raise Error, "a new base of the ledger could not be prepared" if status && !status.success?

        @preparing = Process.spawn(ESTREL, "ledger", "prepare")
      end

      # Once after a refresh, at most once a minute, and at the beginning of a day.
      def alert_rule
        ledger = EstrelServer.ledger
        name = ledger.current_manifest_or_nil
        day = Date.today
        return if name.nil? || [name, day] == @alerted || (@alerted_at && now - @alerted_at < WATCH_EVERY)

        @alerted_at = now
        @alerted = [name, day] if Alerting.new(ledger.current, @alerts).run.empty?
      end

      def now = Process.clock_gettime(Process::CLOCK_MONOTONIC)

      # Seconds of processors that this process and those it has waited for have taken.
      def worked = Process.times.to_a.sum

      # At the beginning of a day.
      def remove_old_events
        today = Workspace.current.today
        return if today == @removed_on

        EventRetention.new.carry_out
        @removed_on = today
      end

      # Some at a time, so that nothing else waits for long; and once there is nothing to pack, not for a while.
      def pack
        days = @settings.pack_after_days
        return if days.zero? || (@packed_at && now - @packed_at < CLEAR_EVERY)

        packed = PropertyPacking.new.step(Time.now.utc - (days * 86_400))
        @packed_at = packed.zero? ? now : nil
      end

      def clear_old
        return if @cleared_at && now - @cleared_at < CLEAR_EVERY

        @cleared_at = now
        Refusal.clear_old
        AccountSession.clear_old
        OneTimeLink.clear_old
        UsedChallenge.clear_old
        Fault.clear_old
        Database::Lease.clear_old
        Access::Attempts.new(EstrelServer.settings.attempts_directory).clear_old
        Exporting::Retention.new.clear_old
        @settings.clear_exchange
        Workspaces::Place.clear(@settings, but: InstalledWorkspace.pluck(:name)) if Workspaces.own.first?
      end
    end
  end
end
