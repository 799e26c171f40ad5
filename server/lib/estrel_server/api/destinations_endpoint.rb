# frozen_string_literal: true

module EstrelServer
  module API
    # What exports refer to: destinations, lists of addresses that are not contacted, holdouts.
    class DestinationsEndpoint < Endpoint
      MAX_LIST = 64 << 20

      get("/destinations", role: "viewer", scope: "read",
                           personal: "none") do
        respond({ destinations: Destination.kept.order(:name).map do |row|
          destination(row)
        end })
      end

      # The secret that is made for a webhook where none is given is shown this once.
      post("/destinations", role: "administrator", scope: "administer", personal: "none",
                            log: "destination changed") do
        made = Pushing::Signature.secret if given["kind"] == "webhook" && given["secret"].to_s.empty?
        row = one_at_a_time("destinations") do
          Destination.create!(name: given["name"].to_s.strip, kind: given["kind"].to_s, settings: given["settings"],
                              secret: made || given["secret"])
        end
        respond({ **destination(row), secret: made }, status: 201)
      end

      # Without a secret, the one it has stays.
      put("/destinations/:id", role: "administrator", scope: "administer", personal: "none",
                               log: "destination changed") do
        row = Destination.kept.find(path_id)
        row.secret = given["secret"] unless given["secret"].to_s.empty?
        one_at_a_time("destinations") { row.update!(name: given["name"].to_s.strip, settings: given["settings"]) }
        respond({ **destination(row), secret: nil })
      end

      # Sends a message about nobody, and tells what came of it.
      post("/destinations/:id/try", role: "administrator", scope: "administer", personal: "none") do
        row = Destination.kept.find(path_id)
        raise Problem.new(422, "only webhooks can be tested") unless row.webhook?

        respond(Pushing::Trial.new(row).to_h)
      end

      delete("/destinations/:id", role: "administrator", scope: "administer", personal: "none",
                                  log: "destination changed") do
        row = Destination.kept.find(path_id)
        users = row.exports.kept.pluck(:name)
        raise Problem.new(409, "used by exports #{users.join(", ")}; change them first") if users.any?

        pages = Page.where(deleted_at: nil, destination: row).order(:id).pluck(:name)
        raise Problem.new(409, "used by reports #{pages.join(", ")}; change them first") if pages.any?

        row.update!(deleted_at: Time.now.utc)
        respond(destination(row))
      end

      get("/contact-lists", role: "viewer", scope: "read", personal: "none") do
        sizes = ContactListEntry.group(:contact_list_id).count
        respond({ lists: ContactList.order(:name).map { |row| list(row, sizes.fetch(row.id, 0)) } })
      end

      post("/contact-lists", role: "analyst", scope: "write", personal: "none") do
        row = ContactList.create!(name: given["name"].to_s.strip, kind: given["kind"].to_s)
        respond(list(row, 0), status: 201)
      end

      # Values as plain text, one a line.
      post("/contact-lists/:id/values", role: "analyst", scope: "write", personal: "none") do
        raise Problem.new(415, "send the values as text/plain, one a line") unless request.media_type == "text/plain"

        text = (+request.body.read(MAX_LIST + 1).to_s).force_encoding(Encoding::UTF_8)
        raise Problem.new(413, "more than #{MAX_LIST >> 20} MB; send it in parts") if text.bytesize > MAX_LIST
        raise Problem.new(422, "the values are not valid UTF-8") unless text.valid_encoding?

        row = ContactList.find(path_id)
        read, added = row.add(text)
        respond({ **list(row, row.entries.count), read: read, added: added })
      end

      delete("/contact-lists/:id", role: "analyst", scope: "write", personal: "none") do
        row = ContactList.find(path_id)
        users = Export.kept.select { |export| export.settings.lists.include?(row.id) }.map(&:name)
        raise Problem.new(409, "used by exports #{users.join(", ")}; change them first") if users.any?

        row.destroy!
        respond({ deleted: true })
      end

      get("/holdouts", role: "viewer", scope: "read",
                       personal: "none") do
        respond({ holdouts: Holdout.order(:name).map do |row|
          holdout(row)
        end })
      end

      post("/holdouts", role: "analyst", scope: "write", personal: "none") do
        row = Holdout.create!(name: given["name"].to_s.strip, share: given["share"], number: given["number"])
        respond(holdout(row), status: 201)
      end

      private

      def destination(row)
        { id: row.id, name: row.name, kind: row.kind, settings: row.settings }
      end

      def list(row, size)
        { id: row.id, name: row.name, kind: row.kind, size: size, updated_at: instant(row.updated_at) }
      end

      def holdout(row) = { id: row.id, name: row.name, share: row.share, number: row.number, settled: !row.places.nil? }
    end
  end
end
