# frozen_string_literal: true

require "selenium-webdriver"
require "tmpdir"

# Headless Chromium as the specs and the screenshots use it; nothing it does reaches the network.
module Chromium
  FLAGS = %w[--headless=new --no-sandbox --disable-gpu --disable-quic --no-first-run --disable-background-networking
             --disable-component-update --disable-sync --force-prefers-reduced-motion --lang=en-GB].freeze

  # The accessibility checks of a large view take more than the usual 30 s on a busy machine; milliseconds.
  TIMEOUTS = { script: 100_000 }.freeze

  module_function

  # @return [Selenium::WebDriver::Chrome::Options]
  def options(downloads: nil)
    options = Selenium::WebDriver::Chrome::Options.new(binary: "/usr/bin/chromium", args: FLAGS, timeouts: TIMEOUTS)
    options.add_preference("download.default_directory", downloads) if downloads
    options
  end

  # @return [Selenium::WebDriver::Chrome::Service]
  def service = Selenium::WebDriver::Service.chrome(path: "/usr/bin/chromedriver")

  # @param width [Integer] of the viewport, not of the window around it
  # @param height [Integer]
  # @return [Selenium::WebDriver::Driver]
  def driver(width:, height:)
    Selenium::WebDriver.for(:chrome, options: options, service: service).tap { |driver| resize(driver, width, height) }
  end

  def resize(driver, width, height)
    driver.execute_cdp("Emulation.setDeviceMetricsOverride", width: width, height: height, deviceScaleFactor: 1,
                                                             mobile: false)
  end
end
