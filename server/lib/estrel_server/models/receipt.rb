# frozen_string_literal: true

module EstrelServer
  # That a link, an attribute change or a consent change with this source and id has been received; it counts once.
  class Receipt < Record
    belongs_to :source
  end
end
