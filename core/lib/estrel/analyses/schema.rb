# frozen_string_literal: true

require "yaml"

module Estrel
  module Analyses
    # What an analysis may be asked and what its picture is drawn from, as JSON Schema. It stands in a file beside the
    # analysis; what all questions and answers have in common, and the schemas that files refer to, in `common.yaml`.
    #
    # References are written as in the description of the API, which these schemas are part of.
    class Schema
      COMMON = YAML.safe_load_file(File.join(__dir__, "common.yaml")).freeze
      private_constant :COMMON

      # @return [Hash{String => Hash}] the schemas of all analyses and what they refer to, by name
      def self.components
        shared = { **Audience::Schema.components, **COMMON.fetch("schemas") }
        @components ||= Analyses.all.reduce(shared) { |found, one| found.merge(one.schema.components) }
      end

      # @return [String] in a few words, what it answers
      attr_reader :title
      # @return [String] a whole sentence
      attr_reader :summary

      # @param analysis [Class] an {Analysis}
      def initialize(analysis)
        @name = analysis.name.split("::").last
        file = YAML.safe_load_file(File.join(__dir__, "#{analysis.address.tr("-", "_")}.yaml"))
        @title, @summary, @own, @picture = file.values_at("title", "summary", "question", "picture")
        @mutex = Mutex.new
      end

      # @return [String] names of the schemas of the question and the answer
      def question_name = "#{@name}Question"
      def answer_name = "#{@name}Answer"

      # @return [Hash{String => Hash}] both, by name
      def components
        common = COMMON.fetch("question")
        question = { "type" => "object", "additionalProperties" => false, "required" => @own["required"] || [],
                     "properties" => { **common, **(@own["properties"] || {}) } }
        answer = COMMON.fetch("answer")
        properties = { **answer["properties"], "picture" => reference("#{@name}Picture") }
        { question_name => question, "#{@name}Picture" => @picture,
          answer_name => answer.merge("properties" => properties) }
      end

      # @param json [Object] a question
      # @return [Hash{String => Object}] the same, frozen through and through
      # @raise [Invalid] for what the schema does not allow
      def question(json)
        faults = SchemaFault.all(validator.validate(json))
        raise Invalid, faults if faults.any?

        JSON.parse(JSON.generate(json), freeze: true)
      end

      private

      def reference(name) = { "$ref" => "#/components/schemas/#{name}" }

      def validator
        @mutex.synchronize do
          @validator ||= JSONSchemer.schema({ "components" => { "schemas" => self.class.components },
                                              **reference(question_name) }, format: true)
        end
      end
    end
  end
end
