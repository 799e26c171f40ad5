# frozen_string_literal: true

module EstrelServer
  # One address of a {ContactList}, as a digest.
  class ContactListEntry < Record
    belongs_to :contact_list
  end
end
