# frozen_string_literal: true

module EstrelServer
  class Database
    # What one process at a time may do, by name: a row that tells who holds it and until when. Its holder renews it
    # while it works. A row outlives connections and the server that wrote it, so a failover frees nothing by mistake;
    # who takes a lease over has waited for its time to pass, or knows that its holder, a process of this machine, is
    # gone.
    #
    # A holder that was held up for longer than that learns by {#check} that it has lost the lease, before it goes on.
    class Lease
      # Seconds for which a holder that is not heard of keeps it.
      SECONDS = 15
      # Seconds between renewals.
      PAUSE = 3
      # Seconds between looks whether it has become free.
      LOOK = 0.1
      TAKE = <<~SQL
        INSERT INTO leases (name, holder, held_until) VALUES (%<name>s, %<holder>s, NOW(6) + INTERVAL %<seconds>d SECOND)
        ON DUPLICATE KEY UPDATE
          holder = IF(held_until <= NOW(6) OR holder = %<gone>s, VALUES(holder), holder),
          held_until = IF(holder = VALUES(holder), VALUES(held_until), held_until)
      SQL
      private_constant :TAKE

      # Raised where another holds the lease.
      class Busy < Error; end

      # Raised by {#check} where the lease has been lost.
      class Lost < StandardError; end

      # @return [void]
      def self.clear_old = Record.connection.execute("DELETE FROM leases WHERE held_until < NOW() - INTERVAL 1 DAY")

      # @param name [String]
      def initialize(name)
        @name = name
        @holder = Holder.mine
      end

      # @param wait [Numeric] seconds for which it is waited for
      # @yieldparam lease [Database::Lease]
      # @return [Object] what the block returns
      # @raise [Busy] where another holds the lease
      def hold(wait: 0)
        deadline = now + wait
        until take
          raise Busy, "another process holds the lease \"#{@name}\"" if now >= deadline

          sleep(LOOK)
        end
        held { yield self }
      end

      # @return [Boolean] whether nobody holds it
      def free?
        there = Record.connection.select_value("SELECT holder FROM leases WHERE name = #{quoted(@name)} " \
                                               "AND held_until > NOW(6)")
        there.nil? || Holder.gone?(there)
      end

      # Renews it.
      #
      # @return [void]
      # @raise [Lost]
      def check
        renewed = Record.connection.exec_update("UPDATE leases SET held_until = NOW(6) + INTERVAL #{SECONDS} SECOND " \
                                                "WHERE name = #{quoted(@name)} AND holder = #{quoted(@holder)}")
        raise Lost, "the lease \"#{@name}\" is lost" unless renewed == 1
      end

      private

      def now = Process.clock_gettime(Process::CLOCK_MONOTONIC)

      def quoted(text) = Importing::SQL.quote(text)

      # @return [Boolean] whether it is ours
      def take
        before = holder
        gone = before if before && Holder.gone?(before)
        Record.connection.execute(format(TAKE, name: quoted(@name), holder: quoted(@holder), gone: quoted(gone),
                                               seconds: SECONDS))
        holder == @holder
      rescue ActiveRecord::Deadlocked
        false # another server of the database was asked for it at the same moment
      end

      def holder = Record.connection.select_value("SELECT holder FROM leases WHERE name = #{quoted(@name)}")

      def held
        keeper = Workspaces.thread { keep }
        yield
      ensure
        keeper.kill.join
        let_go
      end

      # Where the database does not answer, it is renewed when it does again.
      def keep
        loop do
          sleep(PAUSE)
          Record.connection_pool.with_connection { check }
        rescue ActiveRecord::ActiveRecordError
          next
        rescue Lost
          break # who holds it finds out before it goes on
        end
      end

      # Where the database is gone, its time passes.
      def let_go
        Record.connection.execute("DELETE FROM leases WHERE name = #{quoted(@name)} AND holder = #{quoted(@holder)}")
      rescue ActiveRecord::ActiveRecordError
        nil
      end

      # Who holds a lease, as a word: the machine since it was started, the process since it was, and a number of its
      # own.
      module Holder
        # Where a machine tells which one it is, and which of its processes are seen by each other.
        BOOT = "/proc/sys/kernel/random/boot_id"
        SPACE = "/proc/self/ns/pid"
        private_constant :BOOT, :SPACE

        module_function

        # @return [String] another one each time
        def mine = [machine, Process.pid, started(Process.pid), SecureRandom.hex(4)].join("/")

        # @param holder [String]
        # @return [Boolean] whether it was a process of this machine that has ended
        def gone?(holder)
          on, pid, since, = holder.split("/")
          on == machine && started(pid) != since
        end

        def machine = "#{File.read(BOOT).strip}:#{File.readlink(SPACE)[/\d+/]}"
        private_class_method :machine

        # @return [String, nil] when a process began, in the kernel's ticks; nil where there is none, or a dead one
        def started(pid)
          state, *rest = File.read("/proc/#{pid}/stat").rpartition(")").last.split
          rest[18] unless state == "Z"
        rescue SystemCallError
          nil
        end
        private_class_method :started
      end
      private_constant :Holder
    end
  end
end
