# frozen_string_literal: true

module EstrelServer
  module Exporting
    # What a plan hands over at a date, worked out but not handed over: the waterfall, the changes since the last run,
    # and the rows. The same for a look before the run and for the run itself.
    class Preparation
      # @param definition [Estrel::Audience::Definition]
      # @param plan [Estrel::Handover::Plan]
      # @param question [Question]
      # @param export [Export, nil] whose plan it is; nil for one that is not saved
      # @param before [ExportRun, nil] only runs before this one are looked back at
      def initialize(definition, plan, question, export: nil, before: nil)
        @definition = definition
        @plan = plan
        @question = question
        @export = export
        @before = before
      end

      # @return [Estrel::Handover::Waterfall]
      def waterfall
        @waterfall ||= begin
          holdout = @plan.holdout && method(:holdout_rule)
          members = @question.evaluator.members(@definition)
          Estrel::Handover::Waterfall.new(evaluator, members, suppression, holdout: holdout)
        end
      end

      # @return [Hash{String => Integer}] the waterfall's counts, and where only changes are handed over, how many
      #   `entered` and `left`
      def counts
        return waterfall.counts unless changes?

        found = changes["change"].to_a.tally
        waterfall.counts.merge(%w[entered left].to_h { |change| [change, found.fetch(change, 0)] })
      end

      # @param limit [Integer, nil] how many rows are wanted, nil for all
      # @return [Polars::DataFrame] what is handed over, by profile
      def rows(limit = nil)
        people = changes? ? changes : waterfall.frame.filter(Polars.col("step") == handed_over)
        people = people.head(limit) if limit
        rows = columns.frame(people)
        changes? ? people.select([Polars.col("change").alias(change_name(rows))]).hstack(rows) : rows
      end

      # @return [Estrel::Handover::Columns]
      def columns
        @columns ||= Estrel::Handover::Columns.new(evaluator, @plan.columns, channel: @plan.channel,
                                                                             digests: @plan.file["digests"])
      end

      # @return [ExportRun, nil] the last one carried out before this
      def last_done = @export&.last_done(before: @before)

      private

      def handed_over = Estrel::Handover::Waterfall::HANDED_OVER

      def evaluator = @evaluator ||= @question.whole

      def changes? = @plan.mode == "changes"

      def change_name(rows) = rows.columns.include?("change") ? "entered or left" : "change"

      # With addresses, of those who left too.
      def changes
        @changes ||= begin
          stood = last_done ? last_done.files.ids(handed_over) : waterfall.ids(handed_over).head(0)
          found = Estrel::Handover::Changes.between(stood, waterfall.ids(handed_over))
          addresses = waterfall.addresses_of(found["profile_id"])
          found.join(addresses, on: "profile_id", how: "left").sort("profile_id")
        end
      end

      def suppression
        lists = @plan.lists.map do |id|
          ContactList.find_by(id: id)&.to_list or raise Error, "there is no list with the number #{id} any more"
        end
        @plan.suppression(lists: lists, handed_over: @plan.runs_count ? lately_handed_over : [])
      end

      # By runs of this and other plans over the same channel.
      def lately_handed_over
        since = @question.as_of - @plan.messaged.days + 1
        runs = ExportRun.recorded.where(as_of: since..@question.as_of)
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
