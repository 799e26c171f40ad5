# frozen_string_literal: true

module EstrelServer
  # Groups by which people are told apart, each with a name and who is in it: seasons, tenths of a chance. They belong
  # to the workspace, so they name nothing that is somebody's own. What was asked by groups that have been deleted since
  # can still be asked.
  class Grouping < Record
    include Named

    attribute :groups, :json

    scope :kept, -> { where(deleted_at: nil) }

    # @param catalogue [Estrel::Catalogue]
    # @return [Estrel::Audience::OwnSplit]
    # @raise [Estrel::Audience::Invalid]
    def split(catalogue)
      told = groups.each_with_index.map do |group, index|
        definition = Estrel::Audience::Definition.parse(group["who"], catalogue: catalogue)
        Estrel::Audience::OwnSplit::Group.new(group["name"], definition)
      rescue Estrel::Audience::Invalid => e
        raise Estrel::Audience::Invalid, (e.errors.map { |error| { **error, place: "groups[#{index}].who" } })
      end
      Estrel::Audience::OwnSplit.new(told)
    end
  end
end
