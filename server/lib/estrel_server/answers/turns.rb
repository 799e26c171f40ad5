# frozen_string_literal: true

module EstrelServer
  module Answers
    # Rack middleware that limits the heavy questions under way: {PER_ACCOUNT} for an account on this machine, and
    # {PER_PROCESS} in a web process, so that threads are left for light requests. Further questions of an account wait
    # for a moment, in which one that was given up ends; then they are refused.
    #
    # A route that is heavy throws {KEY} with the account once it has checked the request, see {API::Endpoint}. No
    # connection to the database is held while a question waits and is answered. It is answered by a process that can be
    # killed, see {ForwardedQuestion}, or in this process where none of these runs.
    class Turns
      PER_ACCOUNT = 2
      # Of an account in one web process.
      WAITING_PER_ACCOUNT = 2
      # Of the threads in config/puma.rb.
      PER_PROCESS = 12
      # Where a request says that it can take a turn, and what a heavy route throws.
      KEY = "estrel.turn"
      # Seconds for which a question waits for its turn.
      PATIENCE = 3.0
      # Seconds between two attempts to take it.
      PAUSE = 0.02
      # Seconds after which a refused question may be asked again.
      RETRY_AFTER = 1

      FULL = "Estrel is answering as many questions as it can; ask again in a moment"
      OWN = "#{PER_ACCOUNT} of your questions are being answered; ask again when one of them has ended".freeze
      private_constant :WAITING_PER_ACCOUNT, :PAUSE, :FULL, :OWN

      # A question beyond the limits.
      class Refused < Error; end

      # @param app [#call]
      # @param settings [Settings]
      # @param patience [Numeric] seconds
      def initialize(app, settings, patience: PATIENCE)
        @app = app
        @settings = settings
        @patience = patience
        @directory = File.join(settings.var, "turns")
        @mutex = Mutex.new
        @entered = Hash.new(0)
      end

      # @param env [Hash] the Rack environment
      # @return [Array] status, headers, body
      def call(env)
        env[KEY] = true
        account = catch(KEY) { return @app.call(env) }
        env.delete(KEY)
        in_turn(account) { answer(env) }
      rescue Refused => e
        API::Problems.response(429, e.message, "retry-after" => RETRY_AFTER.to_s)
      end

      private

      # The turn ends when the response has been closed, or with what is raised before there is one.
      def in_turn(account)
        enter(account)
        begin
          file = locked(account)
          status, headers, body = yield
          response = [status, headers, Rack::BodyProxy.new(body) { leave(account, file) }]
        ensure
          leave(account, file) unless response
        end
      end

      def answer(env)
        socket = ForwardedQuestion.connect(@settings)
        return ForwardedQuestion.new(socket, env, @settings.question_seconds).response if socket

        env["rack.input"]&.rewind
        @app.call(env)
      end

      def enter(account)
        @mutex.synchronize do
          raise Refused, OWN if @entered[account] >= PER_ACCOUNT + WAITING_PER_ACCOUNT
          raise Refused, FULL if @entered.sum { |_, number| number } >= PER_PROCESS

          @entered[account] += 1
        end
      end

      def leave(account, file)
        file&.close
        @mutex.synchronize { @entered.delete(account) if (@entered[account] -= 1) < 1 }
      end

      # @return [File] which holds the lock until it is closed
      # @raise [Refused] where there is none within the time
      def locked(account)
        deadline = now + @patience
        until (file = lock(account))
          raise Refused, OWN if now >= deadline

          sleep PAUSE
        end
        file
      end

      # Locked files, since the questions of an account come to several processes, and a lock ends with its process.
      def lock(account)
        FileUtils.mkdir_p(@directory, mode: 0o700)
        (1..PER_ACCOUNT).each do |number|
          file = File.new(File.join(@directory, "#{account}-#{number}"), File::RDWR | File::CREAT, 0o600)
          return file if file.flock(File::LOCK_EX | File::LOCK_NB)

          file.close
        end
        nil
      end

      def now = Process.clock_gettime(Process::CLOCK_MONOTONIC)
    end
  end
end
