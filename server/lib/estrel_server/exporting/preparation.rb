# frozen_string_literal: true

module EstrelServer
  module Exporting
    # Gathers what an export rests on besides the ledger: lists, holdouts, earlier runs. What is exported follows
    # from that in {Estrel::Exports::Delivery}.
    class Preparation
      # Who would have been messaged.
      HELD_BACK = [Estrel::Exports::Waterfall::STANDING_HOLDOUT, Estrel::Exports::Waterfall::HOLDOUT].freeze
      private_constant :HELD_BACK

      # @param definition [Estrel::Audience::Definition]
      # @param settings [Estrel::Exports::Settings]
      # @param question [Question]
      # @param export [Export, nil] whose export it is; nil for one that is not saved
      # @param before [ExportRun, nil] the run that is carried out: only those before it are looked back at
      def initialize(definition, settings, question, export: nil, before: nil)
        @definition = definition
        @settings = settings
        @question = question
        @export = export
        @before = before
      end

      # @return [Estrel::Exports::Delivery]
      # @raise [Estrel::Exports::Invalid, Error]
      def delivery
        @delivery ||= begin
          stood = @settings.mode == "changes" ? last_done&.files&.ids(exported)&.then { |ids| present(ids) } : nil
          members = present(@question.evaluator.members(@definition))
          Estrel::Exports::Delivery.new(@settings, @question.whole, members, suppression,
                                        standing: StandingHoldout.on(day)&.rule,
                                        holdout: @settings.holdout && method(:holdout_rule), stood: stood,
                                        chances: ChanceModel.of(@question))
        end
      end

      # @return [ExportRun, nil] the last one carried out before this
      def last_done = @export&.last_done(before: @before)

      private

      # Without people who were erased since the ledger was written.
      def present(ids)
        erased = Erasure.profiles_since(@question.ledger.facts.fetch("marks").fetch("erasures"))
        return ids if erased.empty?

        ids.alias("profile_id").to_frame.filter(Polars.col("profile_id").is_in(erased).is_not)["profile_id"]
      end

      def exported = Estrel::Exports::Waterfall::EXPORTED

      def suppression
        lists = @settings.lists.map do |id|
          ContactList.find_by(id: id)&.to_list or raise Error, "a list that this export excludes has been deleted"
        end
        @settings.suppression(lists: lists, exported: messaged_lately)
      end

      # Those of recent runs who were messaged, and those of their holdouts, who would have been: if only one of the two
      # groups were left out of later runs, they would not stay alike. So a holdout counts where its run's exported
      # people do: where runs count as messages, or where some of these have had one of the events that show it.
      def messaged_lately
        return [] unless @settings.messaged

        recent_runs.flat_map do |run|
          next [] unless @settings.runs_count || messages_followed?(run)

          [*(exported if @settings.runs_count), *HELD_BACK].flat_map { |step| run.files.ids(step).to_a }
        end.uniq
      end

      # Runs of this and other exports over the same channel, on the last days up to the real day of this one.
      def recent_runs
        days = (day - @settings.messaged.days + 1)..day
        # Two days more than needed, whatever the time zone; the days themselves are looked at one by one.
        runs = ExportRun.reached.where("COALESCE(exported_at, created_at) >= ?", days.begin - 2)
        runs = runs.where(id: ...@before.id) if @before
        runs.select { |run| days.cover?(day_of(run)) && run.settings.channel == @settings.channel }
      end

      def messages_followed?(run)
        ids = run.files.ids(exported)
        first = Estrel::Calendar.number(day_of(run))
        @settings.messaged.events.any? do |type|
          next false unless @question.catalogue.event_types.key?(type)

          people = @question.ledger.events(type).filter(Polars.col("day") >= first)["profile_id"]
          people.is_in(ids).any?
        end
      end

      # The day on which it is exported, whatever it is as of; a run that is begun anew stays what it was.
      def day = @day ||= calendar_day(@before&.created_at || Time.now.utc)

      def day_of(run) = calendar_day(run.exported_at || run.created_at)

      def calendar_day(time) = Workspace.current.calendar.day_of((time.to_r * 1_000_000).to_i)

      # A run that is carried out keeps how many a number of people turned out to be.
      def holdout_rule(left)
        row = Holdout.find_by(id: @settings.holdout) or raise Error, "the holdout of this export has been deleted"
        row.rule(left, keep: !@before.nil?)
      end
    end
  end
end
