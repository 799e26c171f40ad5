# frozen_string_literal: true

module EstrelServer
  module Workspaces
    # Makes and removes workspaces, one after the other: the first one's process that follows the ledger does, since
    # those who answer requests have no right to make tables.
    class Keeper
      ESTREL = File.join(ROOT, "bin/estrel")
      # Seconds after which making one is tried again, and that those who work in one have to end.
      AGAIN = 60
      ENDING = 20
      private_constant :ESTREL, :AGAIN, :ENDING

      # @param settings [Settings] of the installation
      def initialize(settings = Workspaces.first.settings)
        @settings = settings
        @tried = {}
        @seen = {}
      end

      # @return [void]
      def step
        return ended if @making

        InstalledWorkspace.where(state: "being removed").find_each { |row| remove(row) }
        row = InstalledWorkspace.where(state: "being made").order(:id).find { |one| due?(one) }
        make(row) if row
      end

      private

      def now = Process.clock_gettime(Process::CLOCK_MONOTONIC)

      def due?(row) = @tried[row.id].nil? || now - @tried[row.id] > AGAIN

      def make(row)
        @tried[row.id] = now
        Database::Store.remove(@settings.of(row.name)) # what an attempt before has left behind
        @said = Tempfile.new("estrel-workspace")
        @making = [row.id, Process.spawn({ "ESTREL_WORKSPACE" => row.name }, ESTREL, "setup",
                                         out: @said.path, err: %i[child out])]
      end

      def ended
        id, pid = @making
        _, status = Process.wait2(pid, Process::WNOHANG)
        return unless status

        @making = nil
        row = InstalledWorkspace.find_by(id: id, state: "being made") or return
        return row.update!(state: "open", problem: nil) if status.success?

        row.update!(problem: File.readlines(@said.path).last.to_s.strip.scrub[0, 500])
        Log.warning("a workspace could not be made", workspace: row.name)
      ensure
        @said.close! if status
      end

      # Once nothing works in it any more.
      def remove(row)
        first_seen = @seen[row.id] ||= now
        return if now - first_seen < ENDING

        settings = @settings.of(row.name)
        Database::Store.remove(settings)
        FileUtils.rm_rf([settings.place, settings.exchange_directory])
        ApiToken.usable.where(workspace: row.name).update_all(revoked_at: Time.now.utc)
        row.destroy!
      rescue Error => e
        row.update!(problem: e.message[0, 500])
        @seen.delete(row.id)
      end
    end
  end
end
