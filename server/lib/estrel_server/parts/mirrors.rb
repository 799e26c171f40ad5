# frozen_string_literal: true

module EstrelServer
  module Parts
    # Keeps the ledger of every workspace on this machine the same as the ones that others build, in those pieces that
    # are held here, without a database: which workspaces there are is told by whoever builds the ledger of the first
    # one, see {Publisher}.
    class Mirrors
      # Seconds between looks which workspaces there are, and for which that is waited for.
      PAUSE = 2
      PATIENCE = 2
      private_constant :PAUSE, :PATIENCE

      # @param network [Network]
      # @param settings [Settings]
      def initialize(network, settings)
        @network = network
        @settings = settings
        @following = {}
      end

      # Until the process ends.
      #
      # @return [void]
      def run
        follow([Workspaces::FIRST])
        loop do
          step
          sleep(PAUSE)
        end
      end

      # Begins with workspaces that have come, and removes the ledgers of those that have gone.
      #
      # @return [Array<String>, nil] which there are; nil where nobody tells
      def step
        sealed = @network.seal.close(Publisher::WORKSPACES, "")
        told = @network.ask_each(@network.subject(Publisher::WORKSPACES), [sealed], seconds: PATIENCE).first
        list = told && @network.seal.open("told #{Publisher::WORKSPACES}", told) or return
        JSON.parse(list).tap do |names|
          (@following.keys - names).each { |name| @following.delete(name).kill.join }
          Workspaces::Place.clear(@settings, but: names)
          follow(names.reject { |name| @following[name]&.alive? })
        end
      end

      # @return [void]
      def stop = @following.each_value(&:kill)

      private

      def follow(names)
        names.each do |name|
          mirror = Mirror.new(@network, @settings.of(name), held: @settings.held)
          @following[name] = Thread.new { Log.with(workspace: name) { take_from(mirror) } }
        end
      end

      # One that fails is begun with again by the next {#step}.
      def take_from(mirror)
        mirror.run
      rescue StandardError => e
        Log.error("a ledger cannot be taken", e)
      end
    end
  end
end
