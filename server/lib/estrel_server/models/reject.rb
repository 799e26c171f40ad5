# frozen_string_literal: true

module EstrelServer
  # A row of an import that was not stored, with its reason and as it was. `conflict` marks one whose id was known with
  # other contents.
  class Reject < Record
    belongs_to :import
  end
end
