# frozen_string_literal: true

module EstrelServer
  module Answers
    # Rack middleware that keeps heavy questions from taking everything: an account has {PER_ACCOUNT} under way at a
    # time on this machine, and a process answers {PER_PROCESS}, so that threads are left for what takes no time. A turn
    # ends when the response has been read, or with the process.
    class Turns
      PER_ACCOUNT = 2
      # Of the threads in config/puma.rb.
      PER_PROCESS = 3
      # Where the turn of a request stands in its environment.
      KEY = "estrel.turn"
      # Seconds after which a refused question may be asked again.
      RETRY_AFTER = 1

      # A question beyond what the account or the process may have under way.
      class Refused < Error; end

      FULL = "Estrel is answering as many questions as it can; ask again in a moment"
      OWN = "#{PER_ACCOUNT} of your questions are being answered; ask again when one has ended".freeze
      private_constant :FULL, :OWN

      # The turn of one request, which takes one only where it is heavy.
      class Turn
        # @param turns [Turns]
        def initialize(turns)
          @turns = turns
        end

        # @param account [Integer]
        # @return [void]
        # @raise [Refused]
        def take(account)
          @entered = @turns.room?
          raise Refused, FULL unless @entered

          @file = @turns.lock(account)
          raise Refused, OWN unless @file
        end

        # @return [void]
        def end
          @file&.close
          @turns.leave if @entered
          @file = @entered = nil
        end
      end

      # @param app [#call]
      # @param settings [Settings]
      def initialize(app, settings)
        @app = app
        @directory = File.join(settings.var, "turns")
        @mutex = Mutex.new
        @under_way = 0
      end

      def call(env)
        env[KEY] = turn = Turn.new(self)
        status, headers, body = @app.call(env)
        [status, headers, Rack::BodyProxy.new(body) { turn.end }]
      rescue Exception # rubocop:disable Lint/RescueException -- whatever ends the request ends its turn
        turn.end
        raise
      end

      # @return [Boolean] whether this process had room for one more, which is taken now
      def room?
        @mutex.synchronize do
          room = @under_way < PER_PROCESS
          @under_way += 1 if room
          room
        end
      end

      # @return [void]
      def leave = @mutex.synchronize { @under_way -= 1 }

      # Locked files, since the questions of an account come to several processes, and a lock ends with its process.
      #
      # @param account [Integer]
      # @return [File, nil] locked; nil where all of the account's are
      def lock(account)
        FileUtils.mkdir_p(@directory, mode: 0o700)
        (1..PER_ACCOUNT).each do |number|
          file = File.new(File.join(@directory, "#{account}-#{number}"), File::RDWR | File::CREAT, 0o600)
          return file if file.flock(File::LOCK_EX | File::LOCK_NB)

          file.close
        end
        nil
      end
    end
  end
end
