# frozen_string_literal: true

module EstrelServer
  class People
    # What users wrote that names a person: notes on dates, reports and comments on them, audiences. It is not removed
    # when the person is erased, since it may be about others too; whoever erases is told of it.
    class Remarks
      # @param identifiers [Array<String>] kind:value, of the person
      def initialize(identifiers)
        @mentions = Mentions.new(identifiers)
      end

      # @return [Array<Hash{Symbol => Object}>] of each `kind` ("note", "report", "comment" or "audience"), `id` and
      #   `title`
      def to_a = [*notes, *reports, *comments, *audiences]

      private

      def notes
        Annotation.find_each.select { |row| @mentions.named?(row.text) }
                  .map { |row| { kind: "note", id: row.id, title: Estrel::English.date(row.date) } }
      end

      def reports
        Page.where(deleted_at: nil).find_each.select { |row| named?(row.name, row.blocks) }
            .map { |row| { kind: "report", id: row.id, title: row.name } }
      end

      def comments
        PageComment.includes(:page).find_each.select { |row| @mentions.named?(row.text) }
                   .map { |row| { kind: "comment", id: row.page_id, title: row.page.name } }
      end

      # By their newest definition; lists of identifiers are part of it.
      def audiences
        rows = Audience.where(deleted_at: nil).includes(:versions).find_each.select do |row|
          named?(row.name, row.note, row.current&.definition) || listed?(row.current&.definition)
        end
        rows.map { |row| { kind: "audience", id: row.id, title: row.name } }
      end

      def named?(*texts) = texts.any? { |text| @mentions.named?(text.is_a?(String) ? text : JSON.generate(text)) }

      # Short identifiers on a list are written without their kind.
      def listed?(node)
        case node
        when Hash
          list = node["listed"]
          return list["values"].any? { |value| @mentions.named?("#{list["by"]}:#{value}") } if list.is_a?(Hash)

          node.values.any? { |value| listed?(value) }
        when Array then node.any? { |value| listed?(value) }
        else false
        end
      end
    end
  end
end
