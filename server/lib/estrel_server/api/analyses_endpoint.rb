# frozen_string_literal: true

module EstrelServer
  module API
    # Every analysis there is: asked, checked, kept and answered in one way. With `Accept: text/event-stream` the answer
    # is preceded by how far it is. A short question can be part of the address: an answer that is kept then has a tag,
    # so that a browser fetches it once.
    class AnalysesEndpoint < Endpoint
      get("/analyses", role: "viewer", scope: "read", personal: "none") do
        analyses = Estrel::Analyses.all.map do |analysis|
          schema = analysis.schema
          { name: analysis.address, title: schema.title, summary: schema.summary,
            question: schema.components.fetch(schema.question_name) }
        end
        respond({ analyses: analyses, schemas: Estrel::Analyses::Schema.components })
      end

      Estrel::Analyses.all.each do |analysis|
        path = "/analyses/#{analysis.address}"
        post(path, role: "viewer", scope: "read", personal: "none", heavy: true) do
          answer(question_to(analysis))
        end

        get(path, role: "viewer", scope: "read", personal: "none") do
          @given = Contract.published.operation("POST", path).body(parsed(params["question"]))
          question = question_to(analysis)
          give_kept(question)
          take_turn
          answer(question)
        end
      end

      private

      def question_to(analysis)
        Answers::AnalysisAnswer.new(analysis.ask(given, workspace(analysis)), whole_generation)
      end

      def give_kept(answer)
        json = answer.kept or return
        cache_control :private, :no_cache
        etag answer.tag
        respond_with_json(json)
      end

      def answer(answer)
        if request.get_header("HTTP_ACCEPT").to_s.include?("text/event-stream")
          halt 200, Answers::EventStream::HEADERS.dup, Answers::EventStream.new(answer, method(:problem_of))
        end
        respond_with_json(answer.json)
      end

      def workspace(analysis)
        dates = { "as_of" => given["as_of"], "received_by" => given["received_by"], "rule_set" => given["rule_set"] }
        asked = question(dates)
        raise Problem.new(409, no_rules) if analysis.states? && asked.rule_set.nil?

        asked.workspace(rule_set_record)
      end

      # @return [Hash, nil] problem details
      def problem_of(error)
        case error
        when Estrel::Analyses::Invalid, Estrel::Audience::Invalid
          API::Problems.to_h(422, error.message, error.errors)
        when Estrel::Error, Error then API::Problems.to_h(422, error.message, [])
        when IOError, SystemCallError then nil # nobody reads any more
        else
          Log.error("a question could not be answered", error)
          API::Problems.to_h(500, Problems.unforeseen, [])
        end
      end
    end
  end
end
