# frozen_string_literal: true

module EstrelServer
  module Exporting
    # Gathers what a plan rests on besides the ledger: lists, the holdout, earlier runs. What is handed over follows
    # from that in {Estrel::Handover::Delivery}.
    class Preparation
      # @param definition [Estrel::Audience::Definition]
      # @param plan [Estrel::Handover::Plan]
      # @param question [Question]
      # @param export [Export, nil] whose plan it is; nil for one that is not saved
      # @param before [ExportRun, nil] the run that is carried out: only those before it are looked back at
      def initialize(definition, plan, question, export: nil, before: nil)
        @definition = definition
        @plan = plan
        @question = question
        @export = export
        @before = before
      end

      # @return [Estrel::Handover::Delivery]
      # @raise [Estrel::Handover::Invalid, Error]
      def delivery
        @delivery ||= begin
          stood = @plan.mode == "changes" ? last_done&.files&.ids(handed_over) : nil
          Estrel::Handover::Delivery.new(@plan, @question.whole, @question.evaluator.members(@definition), suppression,
                                         holdout: @plan.holdout && method(:holdout_rule), stood: stood)
        end
      end

      # @return [ExportRun, nil] the last one carried out before this
      def last_done = @export&.last_done(before: @before)

      private

      def handed_over = Estrel::Handover::Waterfall::HANDED_OVER

      def suppression
        lists = @plan.lists.map do |id|
          ContactList.find_by(id: id)&.to_list or raise Error, "there is no list with the number #{id} any more"
        end
        @plan.suppression(lists: lists, handed_over: @plan.runs_count ? lately_handed_over : [])
      end

      # By runs of this and other plans over the same channel.
      def lately_handed_over
        since = @question.as_of - @plan.messaged.days + 1
        runs = ExportRun.reached.where(as_of: since..@question.as_of)
        runs = runs.where(id: ...@before.id) if @before
        runs.select { |run| run.plan.channel == @plan.channel }.flat_map { |run| run.files.ids(handed_over).to_a }.uniq
      end

      # A run that is carried out keeps how many a number of people turned out to be.
      def holdout_rule(left)
        row = Holdout.find_by(id: @plan.holdout) or raise Error, "the holdout of this plan is gone"
        row.rule(left, keep: !@before.nil?)
      end
    end
  end
end
