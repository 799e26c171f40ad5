# frozen_string_literal: true

require "yaml"

module EstrelServer
  module API
    # The description of the API: what is written down in docs/openapi.yaml, and an operation for each analysis with the
    # schemas that stand beside it.
    module Description
      FILE = File.join(ROOT, "docs/openapi.yaml")
      PROBLEM = { "$ref" => "#/components/responses/Problem" }.freeze
      private_constant :PROBLEM

      module_function

      # @return [Hash] an OpenAPI 3.1 document
      def document
        written = YAML.safe_load_file(FILE)
        analyses = Estrel::Analyses.all.to_h { |analysis| ["/analyses/#{analysis.address}", { "post" => operation(analysis) }] }
        components = written["components"]
        schemas = { **Estrel::Analyses::Schema.components, **components["schemas"] }
        written.merge("paths" => { **written["paths"], **analyses },
                      "components" => { **components, "schemas" => schemas })
      end

      def operation(analysis)
        schema = analysis.schema
        stream = { "type" => "string", "description" => "events: progress, then answer or problem" }
        answer = { "application/json" => { "schema" => reference(schema.answer_name) },
                   "text/event-stream" => { "schema" => stream } }
        question = { "application/json" => { "schema" => reference(schema.question_name) } }
        { "operationId" => "ask#{schema.question_name.delete_suffix("Question")}", "summary" => schema.summary,
          "requestBody" => { "required" => true, "content" => question },
          "responses" => { "200" => { "description" => schema.title, "content" => answer }, "default" => PROBLEM } }
      end
      private_class_method :operation

      def reference(name) = { "$ref" => "#/components/schemas/#{name}" }
      private_class_method :reference
    end
  end
end
