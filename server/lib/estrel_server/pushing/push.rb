# frozen_string_literal: true

module EstrelServer
  module Pushing
    # Tells a destination of the people of a run, batch by batch, and keeps what was taken. Goes on where it, or another
    # worker, stopped: a message whose answer was not heard is sent again under the same id with the same keys, by which
    # the destination knows whom it has been sent.
    class Push
      # The longest pause that is waited for here; a longer one is left to the queue, so that others get their turn.
      SHORT = 5.0
      # Seconds after which the turn passes to another run, if there is one.
      TURN = 300
      # How often it is looked whether the run has been cancelled, seconds.
      GLANCE = 0.5

      # Raised where it cannot go on without a person.
      class Stopped < Error; end

      # @param run [ExportRun]
      # @param connection [Connection]
      # @param backoff [Backoff]
      def initialize(run, connection: Connection.new(run.export.destination), backoff: Backoff.new)
        @run = run
        @settings = run.export.destination.settings
        @connection = connection
        @backoff = backoff
      end

      # @yieldreturn [void] called between two steps; raises to end
      # @return [Time, nil] when to go on; nil where everything has been taken
      # @raise [Stopped]
      def go_on(&proceed)
        @proceed = proceed
        ends = now + TURN
        while (batch = @run.batches.waiting.first)
          pause = due(batch)
          return batch.next_attempt_at if pause > SHORT
          return Time.now.utc if now > ends

          wait(pause)
          push(batch)
        end
        nil
      ensure
        @connection.close
      end

      private

      def now = Process.clock_gettime(Process::CLOCK_MONOTONIC)

      def due(batch) = batch.next_attempt_at ? [batch.next_attempt_at - Time.now.utc, 0].max : 0

      def push(batch)
        people = present(PeopleFile.new(@run, batch.file_name).people(batch))
        settle(batch, people, @connection.post(batch.message_id, body(batch, people)) { @proceed.call })
        hold_rate(batch.row_count)
      rescue Connection::NoAnswer => e
        Figures.count(:push_batches_total, { outcome: "unanswered" })
        again(batch, e.message)
      rescue Connection::Impossible => e
        stop(batch, e.message)
      end

      # Without people who were erased since the batch was written.
      def present(people)
        erasures = Erasure.where(erased_at: @run.exported_at..)
        erased = erasures.flat_map { |row| row.removed.fetch("profiles", []) }.to_set
        people.reject { |pair| erased.include?(pair.first) }
      end

      def settle(batch, people, answer)
        Figures.count(:push_batches_total, { outcome: answer.verdict.to_s })
        case answer.verdict
        when :taken then batch.take(refused(people, answer))
        when :again then again(batch, answer.to_s, answer.retry_after)
        else stop(batch, answer.to_s)
        end
      end

      def again(batch, error, asked = nil)
        pause = @backoff.pause(batch.attempts + 1, asked: asked)
        return stop(batch, "#{error}, #{batch.attempts + 1} times in a row") if pause.nil?

        batch.miss(error, next_attempt_at: Time.now.utc + pause)
      end

      def stop(batch, error)
        batch.miss(error)
        raise Stopped, error
      end

      # Those of the people sent who were refused.
      def refused(people, answer)
        reasons = answer.refusals.to_h { |row| [row["key"], row["reason"].to_s] }
        return [] if reasons.empty?

        keys = people.map { |profile, _| [profile, PeopleFile.key(@run, profile)] }
        keys.filter_map { |profile, key| [profile, key, reasons.fetch(key)] if reasons.key?(key) }
      end

      def body(batch, people)
        data = { run: @run.token, export: @run.export.name, audience: @run.audience_version.audience.name,
                 as_of: @run.as_of.iso8601, channel: @run.settings.channel, batch: batch.number }
        head = JSON.generate({ type: "people.exported", timestamp: @run.created_at.iso8601(6), data: data })
        "#{head.delete_suffix("}}")},\"people\":[#{people.map(&:last).join(",")}]}}"
      end

      # The destination's rows per second are kept on the average; a long pause is left to the queue.
      def hold_rate(rows)
        rate = @settings["rows_per_second"] or return
        @free_at = [@free_at || now, now].max + rows.fdiv(rate)
        pause = @free_at - now
        return wait(pause) if pause <= SHORT

        @run.batches.waiting.first&.update!(next_attempt_at: Time.now.utc + pause)
      end

      def wait(seconds)
        ends = now + seconds
        loop do
          @proceed.call
          left = ends - now
          return if left <= 0

          sleep([left, GLANCE].min)
        end
      end
    end
  end
end
