/** The rasters of an item's states; null as long as they are not there. */

export interface ItemImages {
  picture: ImageBitmap | null;
  background: ImageBitmap | null;
  colours: ImageBitmap | null;
}

export const NO_IMAGES: ItemImages = { picture: null, background: null, colours: null };
