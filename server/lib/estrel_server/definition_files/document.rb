# frozen_string_literal: true

module EstrelServer
  module DefinitionFiles
    # One thing in a file of its own: an audience, a rule set, or groups by which people are told apart.
    class Document
      # By the directory they are in: the keys that a file must and may have.
      DIRECTORIES = {
        "audiences" => { kind: "audience", must: %w[name definition], may: %w[folder note] },
        "rule-sets" => { kind: "rule_set", must: %w[name activity new_for active_within churned_after],
                         may: %w[population channel default] },
        "groups" => { kind: "grouping", must: %w[name groups], may: [] }
      }.freeze
      MAX_BYTES = 1 << 20

      # @return [String] "audience", "rule_set" or "grouping"
      attr_reader :kind
      # @return [Hash{String => Object}] plain JSON, in which things are named
      attr_reader :json

      # @param root [String] directory
      # @return [Array<Document>] of all files in it
      # @raise [Error] naming the file
      def self.all(root)
        raise Error, "there is no directory #{root}" unless File.directory?(root)

        found = DIRECTORIES.flat_map do |directory, form|
          Dir[File.join(root, directory, "*.json")].map { |path| read(path, form) }
        end
        raise Error, "#{root} has no files in #{DIRECTORIES.keys.join(", ")}" if found.empty?

        twice = found.map(&:key).tally.find { |_, times| times > 1 }
        raise Error, "two files describe the #{twice.first.first} \"#{twice.first.last}\"" if twice

        found
      end

      def self.read(path, form)
        raise Error, "#{path} is longer than #{MAX_BYTES >> 20} MB" if File.size(path) > MAX_BYTES

        json = JSON.parse(File.read(path), max_nesting: Estrel::Audience::Document::MAX_JSON_NESTING)
        new(form[:kind], checked(json, form))
      rescue JSON::ParserError
        raise Error, "#{path} is not JSON"
      rescue Error => e
        raise Error, "#{path}: #{e.message}"
      end
      private_class_method :read

      def self.checked(json, form)
        raise Error, "it must be a JSON object" unless json.is_a?(Hash)

        missing = form[:must] - json.keys
        raise Error, "it lacks #{missing.join(", ")}" if missing.any?

        unknown = json.keys - form[:must] - form[:may]
        raise Error, "it has no #{unknown.join(", ")}" if unknown.any?
        raise Error, "the name must be text" unless json["name"].is_a?(String) && !json["name"].strip.empty?

        json
      end
      private_class_method :checked

      # @param kind [String]
      # @param json [Hash{String => Object}]
      def initialize(kind, json)
        @kind = kind
        @json = json
      end

      # @return [String]
      def name = json["name"].strip

      # @return [Array(String, String)] tells it from others
      def key = [kind, name]

      # @return [Array<Array(String, String)>] keys of what it refers to
      def uses = Names.in(json)

      # @param root [String] directory
      # @return [void]
      def write(root)
        directory = File.join(root, DIRECTORIES.find { |_, form| form[:kind] == kind }.first)
        FileUtils.mkdir_p(directory)
        File.write(File.join(directory, "#{slug}.json"), "#{JSON.pretty_generate(json)}\n")
      end

      private

      # Names that differ have files that differ.
      def slug
        plain = name.unicode_normalize(:nfkd).downcase.gsub(/[^a-z0-9]+/, "-").gsub(/\A-|-\z/, "")[0, 80]
        return plain if plain == name.downcase.tr(" ", "-")

        [plain, Digest::SHA256.hexdigest(name)[0, 6]].reject(&:empty?).join("-")
      end
    end
  end
end
