# frozen_string_literal: true

module EstrelServer
  # That a watched condition held on a date, in words. At most one per watch and date.
  class Notice < Record
    belongs_to :watch
  end
end
