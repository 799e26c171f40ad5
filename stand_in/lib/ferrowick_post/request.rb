# frozen_string_literal: true

module FerrowickPost
  # What came in, for the page.
  class Request < Record
  end
end
