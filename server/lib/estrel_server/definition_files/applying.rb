# frozen_string_literal: true

require "tsort"

module EstrelServer
  module DefinitionFiles
    # Makes and changes what files describe, all of it or nothing. What is as described already stays as it is, and what
    # no file describes is left alone.
    class Applying
      include TSort

      # What was done with one thing: "new", "changed" or "same", and in words what is different.
      Done = Struct.new(:kind, :name, :what, :differences)

      AUTHOR = "definition files"
      private_constant :AUTHOR

      # @param documents [Array<Document>]
      # @param catalogue [Estrel::Catalogue] which knows what they speak of
      def initialize(documents, catalogue = EstrelServer.ledger.current.catalogue)
        @documents = documents.to_h { |document| [document.key, document] }
        @catalogue = catalogue
      end

      # @param keep [Boolean] false: only to see what would be done
      # @return [Array<Done>]
      # @raise [Error] naming the thing that cannot be used
      def carry_out(keep: true)
        done = nil
        Record.transaction do
          @ids = {}
          done = in_order.map { |document| apply(document) }
          raise ActiveRecord::Rollback unless keep
        end
        done
      end

      private

      # What something refers to comes before it.
      def in_order
        groups = strongly_connected_components
        ring = groups.find { |keys| keys.size > 1 }
        raise Error, "these refer to each other in a ring: #{ring.map(&:last).sort.join(", ")}" if ring

        groups.flatten(1).map { |key| @documents.fetch(key) }
      end

      def tsort_each_node(&) = @documents.each_key(&)

      def tsort_each_child(key, &) = @documents.fetch(key).uses.select { |used| @documents.key?(used) }.each(&)

      def apply(document)
        json = Names.to_numbers(document.json) { |kind, name| number(kind, name) }
        row = found(document) || model(document.kind).new(name: document.name)
        what, differences = send(:"apply_#{document.kind}", row, json)
        @ids[document.key] = row.id
        Done.new(document.kind, document.name, what, differences)
      rescue Estrel::Audience::Invalid, Estrel::Lifecycle::RuleSet::Invalid => e
        fault = e.errors.first
        raise Error, "#{document.kind.tr("_", " ")} \"#{document.name}\": " \
                     "#{[fault[:place], fault[:message]].reject { |part| part.to_s.empty? }.join(": ")}"
      rescue Error, Estrel::Error, ActiveRecord::RecordInvalid => e
        raise Error, "#{document.kind.tr("_", " ")} \"#{document.name}\": #{e.message}"
      end

      def model(kind) = { "audience" => Audience, "rule_set" => RuleSet, "grouping" => Grouping }.fetch(kind)

      # Private things are nobody else's business.
      def shared(kind)
        kept = model(kind).kept
        kind == "grouping" ? kept : kept.where(private: false)
      end

      def found(document)
        rows = shared(document.kind).where(name: document.name).to_a
        raise Error, "#{rows.size} have this name; rename all but one" if rows.size > 1

        rows.first
      end

      def number(kind, name)
        @ids[[kind, name]] || shared(kind).where(name: name).pick(:id) ||
          raise(Error, "there is no #{kind.tr("_", " ")} \"#{name}\", neither in a file nor here")
      end

      def apply_audience(row, json)
        before = row.new_record? ? nil : row.current
        row.assign_attributes(json.slice("folder", "note"))
        filed = row.changed - ["name"]
        definition = Answers::Asking.definition(json["definition"], @catalogue, of: row.persisted? ? row : nil)
        row.save!
        version = row.keep(definition, @catalogue, author: AUTHOR)
        return ["new", [version.sentence]] if before.nil?

        told = version.id == before.id ? [] : ["#{before.said} → #{version.said}"]
        outcome(told + filed)
      end

      def apply_rule_set(row, json)
        before = row.new_record? ? nil : row.rules_json
        rules = json.except("name", "default")
        rules["population"] = rules["population"]["audience"]["id"] if rules["population"]
        built = Answers::Asking.rule_set(rules, @catalogue, of: row.persisted? ? row : nil)
        raise Error, "choose at least one event type that counts" if built.nil?

        row.keep(built, author: AUTHOR)
        told = before.nil? ? [] : differences(before, row.reload.rules_json)
        told << "is the default now" if json["default"] == true && made_default?(row)
        before.nil? ? ["new", told] : outcome(told)
      end

      def made_default?(row)
        return false if row.default

        RuleSet.where.not(id: row.id).update_all(default: false)
        row.update!(default: true)
      end

      def apply_grouping(row, json)
        before = row.new_record? ? nil : row.groups
        row.groups = json["groups"]
        row.author = AUTHOR if row.new_record? || row.groups != before
        row.split(@catalogue)
        row.save!
        return ["new", []] if before.nil?

        outcome(row.groups == before ? [] : ["groups"])
      end

      def differences(before, now)
        (before.keys | now.keys).reject { |key| before[key] == now[key] }
                                .map { |key| "#{key}: #{before[key].inspect} → #{now[key].inspect}" }
      end

      def outcome(told) = [told.empty? ? "same" : "changed", told]
    end
  end
end
