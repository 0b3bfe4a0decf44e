/** Formats pictures are taken out in; DDS and KTX2 keep the packed pixels with all mips, the others the largest mip. */
export const PICTURE_OUT = ['png', 'tga', 'dds', 'ktx2'] as const;
export type PictureOut = (typeof PICTURE_OUT)[number];
