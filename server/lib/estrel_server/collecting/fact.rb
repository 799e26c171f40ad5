# frozen_string_literal: true

module EstrelServer
  module Collecting
    # What the three reserved types say: attribute changes, a link between two identifiers, a consent change.
    #
    # `data` is the attributes by name; or `{"same_as" => identifier}`; or `{"channel", "given", "evidence"}`.
    Fact = Struct.new(:row, :kind, :source, :key, :subject, :occurred_at, :received_at, :data) do
      # @return [String] the same for the same contents
      def digest = Digest::SHA256.hexdigest(Importing::SQL.json([kind, subject, occurred_at, data.sort.to_h]))

      # @return [Importing::ProfileReader::Facts] attribute changes as the store of profiles takes them
      def attributes = Importing::ProfileReader::Facts.new(row, [subject], data, occurred_at, received_at)
    end
  end
end
