# frozen_string_literal: true

module EstrelServer
  module LiveEvents
    # What links, consents and attribute changes that were received said, and what followed.
    class Facts
      FOLLOWED = {
        "same" => "Linked to %s (already linked).",
        "made" => "Linked to %s (new profile).",
        "attached" => "Linked to %s (identifier added).",
        "merged" => "Linked to %s (two profiles merged).",
        "moved" => "Linked to %s (shared device reassigned)."
      }.freeze
      private_constant :FOLLOWED

      # @param receipts [Array<Receipt>]
      # @param holders [Hash{String => Integer}] identifier to profile
      def initialize(receipts, holders)
        ids = receipts.map(&:id)
        @holders = holders
        @links = Link.where(receipt_id: ids).index_by(&:receipt_id)
        @consents = Consent.where(receipt_id: ids).index_by(&:receipt_id)
        @values = values(receipts.select { |receipt| receipt.kind == "attributes" })
      end

      # @param receipt [Receipt]
      # @return [String, nil] a sentence about a link or a consent
      def told(receipt)
        if (link = @links[receipt.id])
          format(FOLLOWED.fetch(link.outcome), link.one == receipt.subject ? link.other : link.one)
        elsif (consent = @consents[receipt.id])
          "Consent to #{Estrel::English.channel(consent.channel)} #{consent.given ? "given" : "withdrawn"}."
        end
      end

      # @param receipt [Receipt]
      # @return [Hash{String => Object}] the attributes that were set, but for those set again for the same time
      def contents(receipt) = @values.fetch([@holders[receipt.subject], receipt.occurred_at], {})

      private

      def values(receipts)
        AttributeValue.includes(:attribute_definition)
                      .where(profile_id: @holders.values_at(*receipts.map(&:subject)).compact.uniq,
                             occurred_at: receipts.map(&:occurred_at).uniq)
                      .group_by { |row| [row.profile_id, row.occurred_at] }
                      .transform_values { |rows| rows.to_h { |row| [row.attribute_definition.name, row.value] } }
      end
    end
  end
end
