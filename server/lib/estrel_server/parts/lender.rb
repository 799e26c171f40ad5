# frozen_string_literal: true

require "socket"

module EstrelServer
  module Parts
    # Lends processes of this machine to whichever one builds the ledger, see {Borrowed}: they write pieces of it that
    # are held here, of which they read the people from the store, into a directory aside. The machine that builds takes
    # the files from there, and so does the {Mirror} here as soon as they belong to a generation.
    class Lender
      # Seconds after which files of a generation that has not come are cleared away.
      KEPT = 3600
      # Seconds given to a process to end.
      ENDING = 5
      private_constant :KEPT, :ENDING

      # @param network [Network]
      # @param settings [Settings]
      def initialize(network, settings)
        @network = network
        @settings = settings
        @name = SecureRandom.alphanumeric(Pieces::NAME)
        @lent = []
      end

      # From now on, for as long as there is a connection.
      #
      # @return [void]
      def lend
        @network.connected do |client|
          client.subscribe(@network.subject("lenders")) { |message| offer(message) }
          client.subscribe(@network.subject("lender", @name)) { |message| begin_one(message) }
          client.subscribe(@network.subject("lender", @name, "*")) { |message| give(message) }
        end
      end

      private

      # Not to ourselves.
      def offer(message)
        workspace = @network.seal.open("lenders", message.data) or return
        return if Leading.new(@settings.of(workspace)).here?

        offered = { name: @name, processes: @settings.answering_processes, held: @settings.parts_held,
                    parts: @settings.parts }
        Network.quietly { message.respond(@network.seal.close("offer #{workspace}", JSON.generate(offered))) }
      end

      def begin_one(message)
        asked = @network.seal.open("lend", message.data) or return
        id, workspace = asked.split
        settings = @settings.of(workspace)
        Disk.check(settings.var)
        clear_old(settings)
        @lent << process_on(id, workspace) if (free = free?)
        Network.quietly { message.respond(@network.seal.close("#{"not " unless free}lent #{id}", "")) }
      rescue Disk::Full => e
        Log.error("nothing is written here for another machine", e)
      end

      # As many as there are cores for.
      def free?
        @lent.reject!(&:over?)
        @lent.size < @settings.answering_processes
      end

      # @return [Line] to the process
      def process_on(id, workspace)
        here, there = UNIXSocket.pair
        line = Line.new(@network, id, here, %i[lent building])
        line.open
        pid = LedgerBuilding::PieceProcess.start(workspace, there, "--lent")
        there.close
        Thread.new do
          line.run
        ensure
          finish(pid)
        end
        line
      end

      # One that is busy with what nobody waits for any more is not waited for.
      def finish(pid)
        Process.kill("TERM", pid)
        (ENDING * 10).times { Process.wait(pid, Process::WNOHANG) ? return : sleep(0.1) }
        Process.kill("KILL", pid)
        Process.wait(pid)
      end

      def give(message)
        workspace = message.subject.rpartition(".").last
        return unless Workspaces::NAME.match?(workspace)

        Files.new(@network, @settings.of(workspace).written_directory).answer(message)
      end

      def clear_old(settings)
        Dir.glob(File.join(settings.written_directory, "*.arrow")).each do |path|
          FileUtils.rm_f(path) if Time.now - File.mtime(path) > KEPT
        rescue Errno::ENOENT
          nil # taken meanwhile
        end
      end
    end
  end
end
