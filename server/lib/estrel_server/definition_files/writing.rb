# frozen_string_literal: true

module EstrelServer
  module DefinitionFiles
    # Writes what is shared into files.
    class Writing
      # @param root [String] directory, which may have files of the same things
      # @return [Array<Document>]
      # @raise [Error]
      def write(root)
        documents.each { |document| document.write(root) }
      end

      # @return [Array<Document>]
      # @raise [Error] where names do not tell things apart
      def documents
        found = [*audiences, *rule_sets, *groupings]
        twice = found.map(&:key).tally.find { |_, times| times > 1 }
        raise Error, "two things are called \"#{twice.first.last}\"; rename one of them" if twice

        found
      end

      private

      def audiences
        Audience.kept.where(private: false).includes(:versions).order(:name).map do |row|
          filed = { "folder" => row.folder, "note" => row.note }.reject { |_, text| text.to_s.empty? }
          document("audience", row, filed, "definition" => row.current.definition)
        end
      end

      def rule_sets
        RuleSet.kept.where(private: false).includes(:versions).order(:name).map do |row|
          rules = row.rules_json
          population = rules["population"] && { "population" => { "audience" => { "id" => rules["population"] } } }
          document("rule_set", row, row.default ? { "default" => true } : {}, { **rules, **population.to_h })
        end
      end

      def groupings
        Grouping.kept.order(:name).map { |row| document("grouping", row, {}, "groups" => row.groups) }
      end

      def document(kind, row, more, body)
        Document.new(kind, Names.from_numbers({ "name" => row.name, **more, **body }))
      end
    end
  end
end
