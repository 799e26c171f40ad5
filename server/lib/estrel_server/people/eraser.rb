# frozen_string_literal: true

module EstrelServer
  class People
    # Erases one person on request: identifiers, attributes, consent and events, also of profiles that became part of
    # this one, and every trace of the identifiers in what was refused. Tombstones keep them from being reactivated.
    class Eraser
      # @param profile [Profile]
      # @param reason [String] why, as somebody wrote it; kept
      def initialize(profile, reason)
        @profile = profile
        @reason = reason
      end

      # @return [Array<Hash>] what users wrote that names the person, see {Remarks}; to be asked once they are erased
      attr_reader :remarks

      # @return [Erasure] with how much was removed
      def erase
        latest = [Reject, Refusal].to_h { |model| [model, model.maximum(:id) || 0] }
        earlier = rejected
        Record.transaction do
          IngestTurn.take
          found = earlier.merge(rejected(latest)) { |_, one, other| one | other }
          @profiles = own_profiles
          @identifiers = Identifier.includes(:identifier_kind).where(profile_id: @profiles).map(&:to_s)
          leave_tombstones
          @remarks = Remarks.new(@identifiers).to_a
          removed = { "identifiers" => @identifiers.size, "profiles" => @profiles, **remove_facts,
                      **remove_history(found) }
          Profile.where(id: @profiles).order(Arel.sql("merged_into_id IS NULL")).each(&:delete)
          IngestTurn.owners_changed
          removed["exported_files_of_runs"] = Exporting::Retention.new.forget(@profiles)
          Erasure.create!(profile_id: @profile.id, reason: @reason, removed: removed, erased_at: Time.now.utc)
        end
      end

      private

      def leave_tombstones
        now = Time.now.utc
        rows = ErasedIdentifier.digests(@identifiers).map { |digest| { digest: digest, erased_at: now } }
        ErasedIdentifier.insert_all(rows) if rows.any?
      end

      def remove_facts
        links = Link.where(one: @identifiers).or(Link.where(other: @identifiers)).or(Link.where(profile_id: @profiles))
        link_ids = links.ids
        receipts = [*links.pluck(:receipt_id), *Receipt.where(subject: @identifiers).ids,
                    *Consent.where(profile_id: @profiles).pluck(:receipt_id)].uniq
        IdentifierMove.where(from_profile_id: @profiles).or(IdentifierMove.where(to_profile_id: @profiles))
                      .or(IdentifierMove.where(link_id: link_ids)).delete_all
        merges = remove_merges(link_ids)
        Link.where(receipt_id: receipts).delete_all
        consents = Consent.where(profile_id: @profiles).delete_all
        # What somebody else said who had the device before stays, without its identifier.
        others = Consent.where(receipt_id: receipts).pluck(:receipt_id)
        Receipt.where(id: others).update_all(subject: "")
        Receipt.where(id: receipts - others).delete_all
        { "consents" => consents, "links" => link_ids.size, "merges" => merges }
      end

      # An identifier that is this person's now may have linked others before: these stay one, which has to be told to
      # whoever read the store before that.
      def remove_merges(link_ids)
        rows = Merge.where(link_id: link_ids).or(Merge.where(into_profile_id: @profiles))
        all = rows.order(:id).pluck(:id, :from_profile_id, :into_profile_id)
        rows.delete_all
        all.reject { |_, *both| both.intersect?(@profiles) }
      end

      # Rejected rows and refused messages that mention the person. They are read before the transaction, since there
      # can be many; those of a moment ago are looked at again within it.
      #
      # @return [Hash{Class => Array<Integer>}] their ids
      def rejected(after = {})
        mentions = Mentions.new(Identifier.includes(:identifier_kind).where(profile_id: own_profiles).map(&:to_s))
        mappings = Hash.new { |known, import| known[import] = Importing::Mapping.new(import.mapping) }
        rows = Reject.includes(:import).where("rejects.id > ?", after.fetch(Reject, 0))
        refusals = Refusal.where("refusals.id > ?", after.fetch(Refusal, 0))
        { Reject => rows.find_each.select do |row|
          mentions.in?(row.original, mappings[row.import], header: row.import.header)
        end,
          Refusal => refusals.find_each.select do |row|
            mentions.named?(row.subject) || mentions.in?(row.payload.to_s)
          end }
          .transform_values { |found| found.map(&:id) }
      end

      def own_profiles = [@profile.id, *Profile.where(merged_into_id: @profile.id).ids]

      def remove_history(found)
        PropertyBlock.forget(Event.where(profile_id: @profiles).ids)
        counts = { "events" => Event, "attribute_values" => AttributeValue, "identifiers_held" => Identifier }
                 .transform_values { |model| model.where(profile_id: @profiles).delete_all }
        found.each { |model, ids| model.where(id: ids).delete_all }
        counts.except("identifiers_held")
      end
    end
  end
end
