# frozen_string_literal: true

require "yaml"

module EstrelServer
  module API
    # The description of the API: what is written down in docs/openapi.yaml, and an operation for each analysis with the
    # schemas that stand beside it.
    module Description
      FILE = File.join(ROOT, "docs/openapi.yaml")
      PROBLEM = { "$ref" => "#/components/responses/Problem" }.freeze
      # A question as a browser can keep the answer to it.
      IN_ADDRESS = { "name" => "question", "in" => "query", "required" => true,
                     "description" => "the body of the POST request, as JSON; the answer has an ETag once it is kept",
                     "schema" => { "type" => "string", "maxLength" => 8_000 } }.freeze
      private_constant :PROBLEM, :IN_ADDRESS

      module_function

      # @return [Hash] an OpenAPI 3.1 document
      def document
        written = YAML.safe_load_file(FILE)
        analyses = Estrel::Analyses.all.to_h { |analysis| ["/analyses/#{analysis.address}", operations(analysis)] }
        components = written["components"]
        schemas = { **Estrel::Analyses::Schema.components, **components["schemas"] }
        written.merge("paths" => { **written["paths"], **analyses },
                      "components" => { **components, "schemas" => schemas })
      end

      def operations(analysis)
        schema = analysis.schema
        name = schema.question_name.delete_suffix("Question")
        common = { "summary" => schema.summary, "responses" => responses(schema) }
        body = { "required" => true,
                 "content" => { "application/json" => { "schema" => reference(schema.question_name) } } }
        { "get" => { "operationId" => "read#{name}", "parameters" => [IN_ADDRESS], **common },
          "post" => { "operationId" => "ask#{name}", "requestBody" => body, **common } }
      end
      private_class_method :operations

      def responses(schema)
        stream = { "type" => "string", "description" => "events: progress, then answer or problem" }
        answer = { "application/json" => { "schema" => reference(schema.answer_name) },
                   "text/event-stream" => { "schema" => stream } }
        { "200" => { "description" => schema.title, "content" => answer }, "default" => PROBLEM }
      end
      private_class_method :responses

      def reference(name) = { "$ref" => "#/components/schemas/#{name}" }
      private_class_method :reference
    end
  end
end
