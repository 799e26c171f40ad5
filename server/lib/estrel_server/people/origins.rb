# frozen_string_literal: true

module EstrelServer
  class People
    # How one person came to be: the profiles that became part of this one with who they were before, and the devices
    # that came from or went to others.
    class Origins
      # @param profile [Profile]
      def initialize(profile)
        @profile = profile
      end

      # @return [Hash] `merges` and `moves`, oldest first
      def to_h = { merges: merges, moves: moves }

      private

      # Also those of profiles that were parts of others before.
      def merges
        parts = [@profile.id, *Profile.where(merged_into_id: @profile.id).ids]
        Merge.where(into_profile_id: parts).order(:id).includes(link: { receipt: :source }).map do |row|
          { at: row.merged_at.iso8601(6), link: describe(row.link), **shown(row.before) }
        end
      end

      def moves
        rows = IdentifierMove.where(from_profile_id: @profile.id).or(IdentifierMove.where(to_profile_id: @profile.id))
        rows.order(:id).includes(link: { receipt: :source }, identifier: :identifier_kind).map do |row|
          came = row.to_profile_id == @profile.id
          { at: row.moved_at.iso8601(6), identifier: Access::Disclosure.value(row.identifier.to_s),
            link: describe(row.link), direction: came ? "came" : "went",
            other: came ? row.from_profile_id : row.to_profile_id }
        end
      end

      def shown(before)
        { from: portrait(before["from"]), into: portrait(before["into"]),
          dropped: Access::Disclosure.values(before["dropped"]) }
      end

      # Attributes may be marked as personal since.
      def portrait(before)
        identifiers = before["identifiers"].map { |row| row.merge("value" => Access::Disclosure.value(row["value"])) }
        before.merge("identifiers" => identifiers, "attributes" => Access::Disclosure.values(before["attributes"]))
      end

      def describe(link)
        one, other = [link.one, link.other].map { |identifier| Access::Disclosure.value(identifier) }
        { one: one, other: other, source: link.receipt.source.name, occurred_at: link.occurred_at.iso8601(6) }
      end
    end
  end
end
