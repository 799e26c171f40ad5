# frozen_string_literal: true

module EstrelServer
  # What a chance as of a day is told by: learned when it is first asked for, kept, and the same for whoever asks
  # again. So it is learned anew at most once a day, each day has a version of its own, and what was exported can be
  # told again.
  class ChanceModel < Record
    attribute :model, :json

    class << self
      # @param question [Answers::Question]
      # @return [Method] see {Estrel::Exports::Columns#initialize}
      def of(question) = ->(kind, days) { Estrel::Propensity::Model.from_h(kept(question, kind, days)) }

      private

      # What was known at another time is learned from anew, and not kept.
      def kept(question, kind, days)
        return learned(question, kind, days) if question.received_by

        named = { kind: kind, days: days, as_of: question.as_of, basis: basis(question) }
        find_by(named)&.model || begin
          create!(**named, model: learned(question, kind, days)).model
        rescue ActiveRecord::RecordNotUnique
          find_by!(named).model
        end
      end

      # By which rules people have a state, and which money is looked at.
      def basis(question)
        spend = Estrel::Propensity::Features.spend(question.catalogue)
        Digest::SHA256.hexdigest(JSON.generate([question.rule_set.key, spend]))
      end

      def learned(question, kind, days)
        asked = Estrel::Analyses.named("chance").ask({ "of" => kind, "within_days" => days },
                                                     question.workspace(RuleSet.current))
        picture = JSON.parse(Answers::AnalysisAnswer.new(asked, EstrelServer.ledger.current).json)["picture"]
        picture["model"] || raise(Estrel::Exports::Invalid, "Propensity is not available yet. #{picture["refused"]}")
      end
    end
  end
end
