# frozen_string_literal: true

module EstrelServer
  # What has a name that people give it and read: visible, on one line, and in the order in which it was written.
  module Named
    extend ActiveSupport::Concern

    LONGEST = 255
    # Control characters, spaces and joiners of no width, and marks that turn the direction of what follows. Joiners
    # between letters stay, since some scripts and emoji need them.
    INVISIBLE = /
      [[:cntrl:]\u00AD\u034F\u061C\u115F\u1160\u17B4\u17B5\u180E\u3164\uFEFF\uFFA0] |
      [\u200B\u200E\u200F\u202A-\u202E\u2060-\u206F] |
      (?<![[:alnum:]\p{M}\p{So}\uFE0F])[\u200C\u200D]
    /x

    included do
      validates :name, presence: true, length: { maximum: LONGEST }
      validates :name, format: { without: INVISIBLE, message: "contains invisible characters" }, if: :name_changed?
    end
  end
end
