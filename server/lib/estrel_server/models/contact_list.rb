# frozen_string_literal: true

module EstrelServer
  # Addresses that are not contacted, kept as digests only.
  class ContactList < Record
    include Named

    KINDS = %w[email phone customer].freeze
    # Rows stored at once.
    BATCH = 10_000

    has_many :entries, class_name: "EstrelServer::ContactListEntry", dependent: :delete_all

    validates :name, uniqueness: true
    validates :kind, inclusion: { in: KINDS }

    # Adds values, one a line: addresses in plain, or their SHA-256.
    #
    # @param text [String]
    # @return [Array(Integer, Integer)] how many values were given, and how many were new
    def add(text)
      values = text.lines.map(&:strip).reject(&:empty?)
      digests = values.map { |value| digest(value) }.uniq
      before = entries.count
      transaction do
        digests.each_slice(BATCH) do |slice|
          ContactListEntry.insert_all(slice.map { |one| { contact_list_id: id, digest: one } })
        end
        touch
      end
      [values.size, entries.count - before]
    end

    # @return [Estrel::Exports::Suppression::List]
    def to_list = Estrel::Exports::Suppression::List.new(kind: kind, digests: entries.pluck(:digest).to_set)

    private

    def digest(value)
      return value.downcase if Estrel::Exports::Address::DIGEST.match?(value)

      Estrel::Exports::Address.digest(kind, value)
    end
  end
end
