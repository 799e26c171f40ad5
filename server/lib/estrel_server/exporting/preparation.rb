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
          stood = @settings.mode == "changes" ? last_done&.files&.ids(exported) : nil
          members = @question.evaluator.members(@definition)
          Estrel::Exports::Delivery.new(@settings, @question.whole, members, suppression,
                                        standing: StandingHoldout.on(day)&.rule,
                                        holdout: @settings.holdout && method(:holdout_rule), stood: stood,
                                        chances: ChanceModel.of(@question))
        end
      end

      # @return [ExportRun, nil] the last one carried out before this
      def last_done = @export&.last_done(before: @before)

      private

      def exported = Estrel::Exports::Waterfall::EXPORTED

      def suppression
        lists = @settings.lists.map do |id|
          ContactList.find_by(id: id)&.to_list or raise Error, "a list that this export excludes has been deleted"
        end
        @settings.suppression(lists: lists, exported: messaged_lately)
      end

      # Those exported lately, where runs count as messages; and those in a holdout, who would have been messaged: if
      # only the others were left out of later runs, the two groups would not stay alike.
      def messaged_lately
        return [] unless @settings.messaged

        steps = [*(exported if @settings.runs_count), *HELD_BACK]
        steps.flat_map { |step| of_runs(step) }.uniq
      end

      # By runs of this and other exports over the same channel.
      def of_runs(step)
        since = @question.as_of - @settings.messaged.days + 1
        runs = ExportRun.reached.where(as_of: since..@question.as_of)
        runs = runs.where(id: ...@before.id) if @before
        same = runs.select { |run| run.settings.channel == @settings.channel }
        same.flat_map { |run| run.files.ids(step).to_a }
      end

      # The day on which it is exported, whatever it is as of; a run that is begun anew stays what it was.
      def day
        at = (@before&.created_at || Time.now.utc).to_r
        Workspace.current.calendar.day_of((at * 1_000_000).to_i)
      end

      # A run that is carried out keeps how many a number of people turned out to be.
      def holdout_rule(left)
        row = Holdout.find_by(id: @settings.holdout) or raise Error, "the holdout of this export has been deleted"
        row.rule(left, keep: !@before.nil?)
      end
    end
  end
end
