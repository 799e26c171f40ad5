# frozen_string_literal: true

module EstrelServer
  module CLI
    # Runs the messaging stand-in as a process of its own, and again when it has died, as it does on request. It keeps
    # its record beside Estrel's own database; where that is elsewhere, it does not run.
    class StandInCommand
      PAUSE = 0.5

      # @param settings [Settings]
      def initialize(settings)
        @settings = settings
      end

      # Works until told to stop with SIGTERM.
      #
      # @return [void]
      def run
        pid = nil
        Signal.trap("TERM") do
          Process.kill("TERM", pid) if pid
          exit
        end
        loop do
          pid = start if @settings.stand_in && @settings.database_url.nil?
          pid ? Process.wait(pid) : sleep
          sleep(PAUSE)
        end
      end

      private

      def start
        Process.spawn({ "ESTREL_STAND_IN_PORT" => @settings.stand_in_port.to_s }, "bundle", "exec", "puma", "-C",
                      File.join(ROOT, "config/stand_in_puma.rb"), File.join(ROOT, "config/stand_in.ru"))
      end
    end
  end
end
