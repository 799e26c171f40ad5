# frozen_string_literal: true

module EstrelServer
  module API
    # Groups by which people are told apart: kept, changed, deleted and brought back.
    class GroupingsEndpoint < Endpoint
      get("/groupings", role: "viewer", scope: "read", personal: "none") do
        respond({ groupings: Grouping.kept.order(:name, :id).map { |row| describe(row) } })
      end

      post("/groupings", role: "analyst", scope: "write", personal: "none") do
        respond(describe(written(Grouping.new)), status: 201)
      end

      # With the time of the last change the new one started from, what somebody else did meanwhile is not written over.
      put("/groupings/:id", role: "analyst", scope: "write", personal: "none") do
        row = Grouping.kept.find(path_id)
        unless given["updated_at"].nil? || given["updated_at"] == instant(row.updated_at)
          raise Problem.new(409, "someone else changed these groups; reload them")
        end

        respond(describe(written(row)))
      end

      delete("/groupings/:id", role: "analyst", scope: "write", personal: "none") do
        row = Grouping.kept.find(path_id)
        row.update!(deleted_at: Time.now.utc)
        respond(describe(row))
      end

      post("/groupings/:id/restore", role: "analyst", scope: "write", personal: "none") do
        row = Grouping.find(path_id)
        row.update!(deleted_at: nil)
        respond(describe(row))
      end

      private

      def written(row)
        row.assign_attributes(name: given["name"].to_s.strip, groups: groups, author: author)
        row.split(generation.catalogue)
        row.save!
        row
      end

      def groups
        told = given["groups"].map { |group| { "name" => group["name"].strip, "who" => group["who"] } }
        twice = told.map { |group| group["name"] }.tally.find { |_, times| times > 1 }
        raise Problem.new(422, "two groups are called \"#{twice.first}\"; rename one") if twice

        told
      end

      def describe(row)
        { id: row.id, name: row.name, author: row.author, updated_at: instant(row.updated_at),
          deleted: !row.deleted_at.nil?, groups: row.groups.map { |group| describe_group(group) } }
      end

      # Whoever must not see what a group asks about sees its name.
      def describe_group(group)
        definition = Estrel::Audience::Definition.parse(group["who"], catalogue: generation.catalogue)
        window = Estrel::Audience::OwnSplit.new([Estrel::Audience::OwnSplit::Group.new("", definition)]).seasons&.first
        { name: group["name"], from: window&.from, to: window&.to,
          sentence: Estrel::Audience::Sentence.new(definition, generation.catalogue).to_s }
      rescue Estrel::Audience::Invalid
        { name: group["name"], from: nil, to: nil, sentence: Access::Disclosure::HIDDEN }
      end
    end
  end
end
