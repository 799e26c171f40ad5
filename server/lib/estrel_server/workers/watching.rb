# frozen_string_literal: true

module EstrelServer
  module Workers
    # Looks whether watched conditions hold as of the last day that has ended, and writes a notice for each that does:
    # at most one per watch and day.
    class Watching
      # @param generation [Estrel::Ledger::Generation]
      # @param upkeep [Upkeep] by which a watch that fails is tried again
      def initialize(generation, upkeep = Upkeep.new("alerts"))
        @generation = generation
        @upkeep = upkeep
      end

      # @return [Array<Watch>] those that could not be looked at
      def run
        day = last_ended or return []
        Watch.includes(:lifecycle_policy).select do |watch|
          name = "alert #{watch.id}"
          @upkeep.step(name) { look(watch, day) }
          @upkeep.failing?(name)
        end
      end

      # @param watch [Watch]
      # @param day [Date]
      # @return [void]
      def look(watch, day)
        return if Notice.exists?(watch: watch, about: day)

        text = told(watch, day)
        Notice.create!(watch: watch, about: day, text: text, created_at: Time.now.utc) if text
      rescue ActiveRecord::RecordNotUnique
        nil # another process has told of it
      end

      # @return [Date, nil] nil while there is none
      def last_ended
        today = @generation.calendar.day_of(Process.clock_gettime(Process::CLOCK_REALTIME, :microsecond))
        @generation.newest_day && [@generation.newest_day, today - 1].min
      end

      private

      def told(watch, day)
        record = watch.lifecycle_policy || LifecyclePolicy.current
        policy = Answers::Asking.policy(record.rules_json, @generation.catalogue, of: record) or return
        question = Answers::Question.new(@generation, as_of: day, policy: policy, limited: false)
        Estrel::Lifecycle::Condition.new(watch.kind, watch.settings).told(question.workspace(record))
      end
    end
  end
end
