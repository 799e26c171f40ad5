# frozen_string_literal: true

module EstrelServer
  module Workspaces
    # Beside a process that works in the background for the first workspace, one of the same kind for each other
    # workspace that is open. They end with it, and with the workspace.
    class Companions
      ESTREL = File.join(ROOT, "bin/estrel")
      # Tells a companion whom it belongs to.
      PARENT = "ESTREL_COMPANION_OF"
      # Seconds between looks, and until one that has ended is started again.
      PAUSE = 1
      AGAIN = 5
      # Seconds that one is given to end.
      PATIENCE = 15
      private_constant :ESTREL, :PARENT, :PAUSE, :AGAIN, :PATIENCE

      # For as long as this process lives.
      #
      # @param command [Array<String>] what the process was started by
      # @return [void]
      def self.keep(*command)
        return stay_with(ENV.fetch(PARENT)) if ENV.key?(PARENT)
        return unless Workspaces.own.first?

        companions = new(command)
        at_exit { companions.stop_all }
        Thread.new { companions.run }
      end

      # A process whose parent was killed ends, too.
      def self.stay_with(parent)
        Thread.new do
          sleep(PAUSE) while Process.ppid == Integer(parent, 10)
          Process.kill("TERM", Process.pid)
        end
      end
      private_class_method :stay_with

      # @param command [Array<String>]
      def initialize(command)
        @command = command
        @children = {}
        @ended = {}
      end

      # @return [void]
      def run
        loop do
          InstallationRecord.connection_pool.with_connection { step }
        rescue *Database::Store::AWAY
          nil # those there are go on
        ensure
          sleep(PAUSE)
        end
      end

      # Starts and stops what has to be.
      #
      # @return [void]
      def step
        open = InstalledWorkspace.open.pluck(:name)
        (@children.keys - open).each { |name| stop(name) }
        open.each { |name| start(name) unless alive?(name) || (@ended[name] && now - @ended[name] < AGAIN) }
      end

      # @return [void]
      def stop_all = @children.dup.each_key { |name| stop(name) }

      private

      def now = Process.clock_gettime(Process::CLOCK_MONOTONIC)

      def start(name)
        @children[name] = Process.spawn({ "ESTREL_WORKSPACE" => name, PARENT => Process.pid.to_s }, ESTREL, *@command)
      end

      def alive?(name)
        pid = @children[name] or return false
        return true unless Process.wait(pid, Process::WNOHANG)

        @ended[name] = now
        @children.delete(name)
        false
      rescue Errno::ECHILD
        @children.delete(name)
        false
      end

      def stop(name)
        pid = @children[name]
        Process.kill("TERM", pid)
        deadline = now + PATIENCE
        sleep(0.1) while alive?(name) && now < deadline
        Process.kill("KILL", pid) if alive?(name)
        @children.delete(name)
        @ended.delete(name)
      rescue Errno::ESRCH
        @children.delete(name)
      end
    end
  end
end
